"""What composes: one target tonight, its exposures, a test picture against them, the bench, the packing list, a trip."""
