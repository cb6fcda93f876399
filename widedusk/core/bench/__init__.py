"""Will this rig do? All verdicts on an assembly, two of them side by side, and what to pack."""
