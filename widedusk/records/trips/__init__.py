"""Going out: what was packed for which night, and what stayed at home."""
