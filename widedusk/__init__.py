"""Wide Dusk: plans, arithmetic and verdicts for a night with a star tracker."""
