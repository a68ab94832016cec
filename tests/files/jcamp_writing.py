"""Writes JCAMP-DX in every form, for tests: an encoder that shares nothing with the reader."""

from __future__ import annotations

import itertools

SQZ = {True: "@ABCDEFGHI", False: "@abcdefghi"}
DIF = {True: "%JKLMNOPQR", False: "%jklmnopqr"}
DUP = " STUVWXYZs"


def squeezed(value: int) -> str:
    """A value whose first digit carries the sign and ends the number before it."""
    digits = str(abs(value))
    return SQZ[value >= 0][int(digits[0])] + digits[1:]


def difference(step: int) -> str:
    digits = str(abs(step))
    return DIF[step >= 0][int(digits[0])] + digits[1:]


def repeated(times: int) -> str:
    digits = str(times)
    return DUP[int(digits[0])] + digits[1:]


def affn(values: list[int]) -> str:
    return "".join(f" {value}" for value in values)


def pac(values: list[int]) -> str:
    return "".join(f"{value:+d}" for value in values)


def sqz(values: list[int]) -> str:
    return "".join(squeezed(value) for value in values)


def dif(values: list[int], duplicates: bool = False) -> str:
    """The first value squeezed, then differences; runs of one difference folded where asked."""
    steps = [b - a for a, b in itertools.pairwise(values)]
    text, place = squeezed(values[0]), 0
    while place < len(steps):
        run = 1
        while duplicates and place + run < len(steps) and steps[place + run] == steps[place]:
            run += 1
        text += difference(steps[place]) + (repeated(run) if run > 1 else "")
        place += run
    return text


def difdup(values: list[int]) -> str:
    return dif(values, duplicates=True)


FORMS = {"AFFN": affn, "PAC": pac, "SQZ": sqz, "DIF": dif, "DIFDUP": difdup}


def block(
    values: list[int],
    form: str = "AFFN",
    title: str = "one",
    first: float = 4000.0,
    step: float = -2.0,
    per_line: int = 8,
    factor: float = 0.001,
    **changed: str,
) -> str:
    """A ##TITLE … ##END block with (X++(Y..Y)) data; `changed` replaces or adds records."""
    encode = FORMS[form]
    checked = form in ("DIF", "DIFDUP")
    lines, place = [], 0
    while place < len(values):
        start = place - 1 if checked and place else place
        lines.append(f"{first + step * start:g}" + encode(values[start : place + per_line]))
        place += per_line
    if checked:  # a last line with the check alone
        lines.append(f"{first + step * (len(values) - 1):g}" + squeezed(values[-1]))
    records = {
        "TITLE": title, "JCAMP-DX": "4.24", "DATA TYPE": "INFRARED SPECTRUM", "XUNITS": "1/CM",
        "YUNITS": "ABSORBANCE", "FIRSTX": f"{first:g}", "LASTX": f"{first + step * (len(values) - 1):g}",
        "XFACTOR": "1", "YFACTOR": f"{factor:g}", "NPOINTS": str(len(values)), "XYDATA": "(X++(Y..Y))",
    } | {key.replace("_", " "): text for key, text in changed.items()}  # fmt: skip
    data = records.pop("XYDATA")
    head = "".join(f"##{key}={text}\n" for key, text in records.items())
    return head + f"##XYDATA={data}\n" + "\n".join(lines) + "\n##END=\n"
