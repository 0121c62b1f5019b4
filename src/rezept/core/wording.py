"""Settings in words: one place for lettering, drawings, sheets and sentences."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from rezept.core.parameters import PARAMETERS


def counted(count: int, one: str, several: str = "") -> str:
    """``1 patch``, ``3 patches``."""
    return f"{count} {one if count == 1 else several or f'{one}s'}"


def together(names: Sequence[str]) -> str:
    """``a``, ``a and b``, ``a, b and c``."""
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


def rounded(value: float, digits: int = 3) -> str:
    """A number to so many digits as people write it: ``0.0345``, ``3480``, never ``3.48e+03``."""
    return f"{float(f'{value:.{digits}g}'):.12g}"


def short_amount(key: str, value: float) -> str:
    """A value with its unit, as short as it can be read: ``80%``, ``17.6 mm/s``."""
    unit = PARAMETERS[key].unit
    return f"{value:.4g}{unit}" if unit in ("%", "") else f"{value:.4g} {unit}"


def value_words(key: str, value: float | None, digits: int = 5) -> str:
    """A value as it stands in a sentence: ``30 %``, ``on``, or ``not set``."""
    if value is None:
        return "not set"
    if PARAMETERS[key].words:
        return PARAMETERS[key].words[int(value)]
    return f"{value:.{digits}g} {PARAMETERS[key].unit}".strip()


def setting_words(key: str, value: float) -> str:
    """One setting in short words: ``2 passes``, ``air on``, ``power 80%``."""
    if key == "passes":
        return "1 pass" if value == 1 else f"{value:g} passes"
    if PARAMETERS[key].words:
        return f"{PARAMETERS[key].name} {value_words(key, value)}"
    return f"{PARAMETERS[key].name} {short_amount(key, value)}"


def settings_name(settings: Mapping[str, float]) -> str:
    """Settings as a drawing names them: ``speed 8 mm/s, power 30 %, passes 1``."""
    return ", ".join(
        f"{PARAMETERS[key].name} {value:.6g} {PARAMETERS[key].unit}".strip() for key, value in settings.items()
    )


def axis_title(key: str) -> str:
    row = PARAMETERS[key]
    return f"{row.name} {row.unit}".strip()
