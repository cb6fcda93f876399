"""What a person lets pass."""

from dataclasses import dataclass

from widedusk.core.choices import Choices


@dataclass(frozen=True)
class Limits:
    """Elongation, and width against the run's own good frames, what this lens is known to give, or the middle of the picture."""

    elongation: float = 1.3
    width: float = 1.3

    @classmethod
    def by(cls, choices: Choices) -> "Limits":
        return cls(choices.elongation_limit, choices.width_limit)


USUAL_LIMITS = Limits()
