"""What to key in, when it ends, what it fills and what follows, with every count worked out."""

from widedusk.core.choices import Choices
from widedusk.core.exposure.card import SPOKEN, Card
from widedusk.core.verdict import Level, Limit, Quantity, Verdict, Working, duration_words


def _frames(card: Card) -> str:
    return "1 frame" if card.frames == 1 else f"{card.frames} frames"


def card_verdict(card: Card, choices: Choices, start: Quantity, end: Quantity) -> Verdict:
    """What to key in, when it ends, what it fills."""
    frames = Quantity("Frames", card.frames, "", "n", 0, working="frames")
    missing_gb = (card.frames_in_window - card.frames) * card.raw_file_mb / 1000.0
    level: Level = "stop" if not card.frames else "care" if card.limited_by in {"card", "power"} else "go"
    sentence = (
        f"{_frames(card)} of {duration_words(card.exposure_s)}, {start.text} to {end.text}."
        if card.frames
        else "The power does not last to the first frame: nothing to key in."
        if card.limited_by == "power"
        else "There is no time for a single frame: nothing to key in."
    )
    notes = []
    if card.limited_by == "card":
        notes.append(
            f"The memory card is full before the window closes: {missing_gb:.1f} GB more would take "
            f"all {card.frames_in_window} frames."
        )
    if card.limited_by == "power" and card.frames:
        notes.append(f"The power ends before the window closes; with enough of it there would be {card.frames_in_window} frames.")
    if card.noise_reduction:
        notes.append("Long-exposure noise reduction takes as long again after each frame: switch it off and take darks instead.")
    if card.bulb:
        notes.append("Bulb: look at the aperture again after switching; some bodies open it.")
    if card.mirror_s:
        notes.append(
            f"Mirror lock-up by the self-timer of {card.mirror_s:g} s is counted; a plain trigger would only lift the mirror."
        )
    return Verdict(
        "Card",
        level,
        sentence,
        {"window": "the window", "power": "the power", "card": "the memory card", "patience": "your patience"}[card.limited_by],
        " ".join(notes),
        figures=()
        if not card.frames
        else (
            start,
            end,
            Quantity("Total", text=duration_words(card.total_s), working="frames"),
            Quantity("Kept", text=duration_words(card.kept_s), working="kept"),
            Quantity("Storage", card.storage_gb, "GB", working="storage"),
            Quantity("Darks", card.calibration.darks, f"× {card.exposure_s:g} s", decimals=0, working="darks"),
        ),
        limits=(
            Limit(
                "The window",
                "at most",
                Quantity("Frames", card.frames_in_window, "frames", decimals=0),
                card.limited_by == "window",
            ),
            *(
                Limit("The power", "at most", Quantity("Frames", one.frames, "frames", decimals=0), card.limited_by == "power")
                for one in card.limits
                if one.name == SPOKEN["power"]
            ),
            Limit("The memory card", "at most", Quantity("Storage", choices.card_gb, "GB", decimals=0), card.limited_by == "card"),
        ),
        workings=(
            Working(
                "frames",
                "Number of frames",
                "n = ⌊(window − delay + pause) / (exposure + pause)⌋; pause = gap + mirror + (exposure with noise reduction)",
                (
                    start,
                    Quantity("Window", text=duration_words(card.window_s)),
                    Quantity("Delay", card.delay_s, "s", decimals=0),
                    Quantity("Exposure", card.exposure_s, "s", "t"),
                    Quantity("Gap", card.rest_s, "s"),
                    Quantity("Mirror lock-up", card.mirror_s, "s"),
                    Quantity("Noise reduction", text="on, doubles each frame" if card.noise_reduction else "off"),
                ),
                frames,
                "Counting",
                "definition",
                f"A timer whose interval is the pause takes {card.interval_gap_s:g} s; one that counts from start to start "
                f"takes {card.interval_start_s:g} s.",
            ),
            Working(
                "kept",
                "Time that will be kept",
                "n × keep rate × t",
                (frames, Quantity("Exposure", card.exposure_s, "s", "t")),
                Quantity("Kept", text=duration_words(card.kept_s)),
                "Keep rate of the Exposure verdict",
                "common practice",
            ),
            Working(
                "storage",
                "Storage",
                "(frames + darks + flats + bias) × raw file",
                (
                    frames,
                    Quantity("Calibration frames", card.calibration.total, "", decimals=0),
                    Quantity("Raw file", card.raw_file_mb, "MB"),
                ),
                Quantity("Storage", card.storage_gb, "GB"),
                "Counting, 1 GB = 1000 MB",
                "definition",
            ),
            Working(
                "darks",
                "Darks to follow",
                "same ISO, length and temperature, cap on",
                (Quantity("Number", card.calibration.darks, "", decimals=0), Quantity("Exposure", card.exposure_s, "s", "t")),
                Quantity("Time for them", text=duration_words(card.calibration_s)),
                "10 to 30 matched darks, or none with dithering; flats with focus and ring untouched; bias at the shortest time",
                "common practice",
                f"And {card.calibration.flats} flats, {card.calibration.bias} bias.",
            ),
        ),
        caution=""
        if not card.frames
        else "Awake since morning? Sleep before the drive: driving tired is as dangerous as driving drunk.",
    )
