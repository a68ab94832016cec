"""Makes the awkward text files: name → text, from the truth."""

from tests.files.awkward.truth import BENCH, BENCH_NAMES, IDS, KINDS, MOISTURE, NM, VALUES

LABELS = [f"{nm:g}" for nm in NM]
HEADER = ["sample", "retting", "moisture", *LABELS]
ROWS = [[IDS[r], KINDS[r], f"{MOISTURE[r]:g}", *map(str, VALUES[r].tolist())] for r in range(12)]
BARE = [[IDS[r], *map(str, VALUES[r].tolist())] for r in range(12)]


def text(rows, mark=",", end="\n"):
    return end.join(mark.join(row) for row in rows) + end


def turned(rows):
    return [list(row) for row in zip(*rows, strict=True)]


def quoted(rows):
    return [[f'"{cell}"' for cell in row] for row in rows]


def comma(rows):
    return [[cell.replace(".", ",") for cell in row] for row in rows]


def headed(*names):
    """The usual rows with other names of the channels."""
    return [["sample", "retting", "moisture", *names], *ROWS]


def spread(rows, place, cells):
    """Rows with one more column."""
    return [[*row[:place], cell, *row[place:]] for row, cell in zip(rows, cells, strict=True)]


USUAL = [HEADER, *ROWS]
DATES = [f"2026-03-{day:02d}" for day in range(2, 14)]


def statistics():
    mean = ["mean", "", f"{MOISTURE.mean():.3f}", *(f"{v:.4f}" for v in VALUES.mean(axis=0))]
    sd = ["SD", "", f"{MOISTURE.std():.3f}", *(f"{v:.4f}" for v in VALUES.std(axis=0))]
    return [mean, sd]


def long(extra):
    rows = [["lot", *(["retting", "moisture"] if extra else []), "wavelength", "absorbance"]]
    for r in range(12):
        for c, nm in enumerate(LABELS):
            more = [KINDS[r], f"{MOISTURE[r]:g}"] if extra else []
            rows.append([IDS[r], *more, nm, str(VALUES[r, c])])
    return rows


def pairs(names_above):
    columns = []
    for r in range(12):
        columns += [["nm", *LABELS], ["abs" if names_above else IDS[r], *map(str, VALUES[r].tolist())]]
    rows = turned(columns)
    above = [cell for name in IDS for cell in (name, "")]
    return [above, *rows] if names_above else rows


def log():
    head = [["time / h", "temperature / °C", "pH", "conductivity / mS/cm"]]
    steps = range(24)
    return head + [
        [f"{0.5 * s:g}", f"{30 + 0.1 * s:.2f}", f"{6.8 - 0.03 * s:.2f}", f"{1.2 + 0.05 * s:.3f}"]
        for s in steps
    ]


def wavenumbers():
    return [["sample", *(f"{4000 - 50 * c} cm-1" for c in range(25))], *BARE]


FILES = {
    "plain.csv": text(USUAL),
    "wavelength_first.csv": text(turned([["Wavelength (nm)", *LABELS], *BARE])),
    "wavelength_without_name.csv": text(turned([["", *LABELS], *BARE])),
    "wavelength_numbered_samples.csv": text(turned([["wavelength", *LABELS], *([str(r + 1), *BARE[r][1:]] for r in range(12))])),
    "samples_in_columns_with_labels.csv": text(turned(USUAL)),
    "x_and_replicates.txt": text(turned([["nm", *LABELS], *BARE]), "\t"),
    "header_1100_nm.csv": text(headed(*(f"{nm} nm" for nm in LABELS))),
    "header_1100nm.csv": text(headed(*(f"{nm}.0nm" for nm in LABELS))),
    "header_nm1100.csv": text(headed(*(f"nm{nm}" for nm in LABELS))),
    "header_X1100.csv": text(headed(*(f"X{nm}" for nm in LABELS))),
    "header_abs_1100.csv": text(headed(*(f"abs_{nm}" for nm in LABELS))),
    "header_x_001.csv": text(headed(*(f"x_{c + 1:03d}" for c in range(25)))),
    "header_V1.csv": text(headed(*(f"V{c + 1}" for c in range(25)))),
    "header_bracketed.csv": text(headed(*(f"A({nm})" for nm in LABELS))),
    "statistics_package.csv": text(
        quoted(spread([["sample", "retting", "moisture", *(f"X{nm}" for nm in LABELS)], *ROWS], 0, ["", *(str(r + 1) for r in range(12))]))
    ),
    "row_names_without_header.txt": text([HEADER[1:], *ROWS], " "),
    "row_numbers_first.csv": text(spread(USUAL, 0, ["No", *(str(r + 1) for r in range(12))])),
    "percent_cells.csv": text([HEADER, *([row[0], row[1], row[2] + "%", *row[3:]] for row in ROWS)]),
    "thousands.csv": text(spread(USUAL, 3, ["counts", *(f'"{1000 * (r + 1) + 234.5:,.1f}"' for r in range(12))])),
    "thousands_space.csv": text(comma(spread(USUAL, 3, ["counts", *(f"{1000 * (r + 1) + 234.5:,.1f}".replace(",", " ") for r in range(12))])), ";"),
    "thousands_only.csv": text(spread(USUAL, 3, ["counts", *(f'"{1000 * (r + 1) + 234:,}"' for r in range(12))])),
    "decimal_comma.csv": text(comma(USUAL), ";"),
    "decimal_comma_all_quoted.csv": text(quoted(comma(USUAL))),
    "decimal_comma_tabs.txt": text(comma(USUAL), "\t"),
    "decimal_comma_header.csv": text(comma([["sample", *(f"{nm + 0.5}" for nm in NM)], *BARE]), ";"),
    "mean_and_sd_below.csv": text([*USUAL, *statistics()]),
    "mean_after_blank_line.csv": text(USUAL) + "\n" + text(statistics()),
    "units_row.csv": text([HEADER, ["", "", "%", *[""] * 25], *ROWS]),
    "units_row_nm.csv": text([HEADER, ["", "", "%", *["nm"] * 25], *ROWS]),
    "units_row_bracketed.csv": text([["lot", *(n.partition(" / ")[0] for n in BENCH_NAMES)], ["", "[%]", "[%]", "[N]", "[g/g]"], *([IDS[r], *map(str, BENCH[r].tolist())] for r in range(12))]),
    "title_rows.csv": "Intake laboratory\nspring campaign, second week\n\n" + text(USUAL),
    "instrument_heading.csv": "Instrument,FX-20\nOperator,R. Mohr\nDate,2026-03-02\nGain,4\n" + text(USUAL),
    "footer_note.csv": text(USUAL) + "\nexported by the intake desk\n",
    "comment_lines.csv": "# intake\n# spring\n" + text(USUAL),
    "commented_header.txt": "# intake\n# " + text([["sample", *LABELS], *BARE], " "),
    "blanks.txt": text([["sample", "retting", "moisture", *LABELS], *ROWS], "   "),
    "bars.txt": text(USUAL, "|"),
    "tabs.csv": text(USUAL, "\t"),
    "sep_line.csv": "sep=;\n" + text(USUAL, ";"),
    "long.csv": text(long(False)),
    "long_with_classes.csv": text(long(True)),
    "pairs.csv": text(pairs(False)),
    "pairs_names_above.csv": text(pairs(True)),
    "dates_iso.csv": text(spread(USUAL, 2, ["measured", *DATES])),
    "dates_points.csv": text(spread(USUAL, 2, ["measured", *(f"{d[8:]}.{d[5:7]}.{d[:4]}" for d in DATES)])),
    "dates_slashes.csv": text(spread(USUAL, 2, ["measured", *(f"{d[8:]}/{d[5:7]}/{d[:4]}" for d in DATES)])),
    "dates_with_time.csv": text(spread(USUAL, 2, ["measured", *(f"{d} 12:00:00" for d in DATES)])),
    "index_row_above_wavelengths.csv": text([["sample", "retting", "moisture", *(str(c + 1) for c in range(25))], ["", "", "", *LABELS], *ROWS]),
    "names_above_wavelengths.csv": text([["sample", "retting", "moisture", *[""] * 25], ["", "", "", *LABELS], *ROWS]),
    "two_exports_in_one.csv": text([HEADER, *ROWS[:6], HEADER, *ROWS[6:]]),
    "trailing_delimiter.csv": text([[*row, ""] for row in USUAL], ";"),
    "without_header.csv": text(row[1:] for row in BARE),
    "ids_without_header.csv": text(BARE),
    "numbers_as_ids.csv": text([["sample", *LABELS], *([str(417 + 3 * r), *BARE[r][1:]] for r in range(12))]),
    "class_before_sample.csv": text([[row[1], row[0], *row[2:]] for row in USUAL]),
    "wavenumbers_falling.csv": text(wavenumbers()),
    "wavenumber_column_falling.csv": text(turned([["cm-1", *(str(4000 - 50 * c) for c in range(25))], *BARE])),
    "process_log.csv": text(log()),
    "two_sets_of_signals.csv": text([[*row, *more] for row, more in zip(USUAL, [[f"d1_{nm}" for nm in LABELS], *(row[3:] for row in ROWS)], strict=True)]),
    "umlauts_windows.csv": text([["sample", "retting", "moisture", *LABELS], ["Röste 1", *ROWS[0][1:]], *ROWS[1:]]).encode("cp1252"),
    "utf16_tabs.txt": text(USUAL, "\t").encode("utf-16"),
    "old_mac_lines.csv": text(USUAL, end="\r"),
    "true_minus.csv": text(spread(USUAL, 3, ["change", *(f"−{r + 1}.5" for r in range(12))])),
    "not_available.csv": text([HEADER, *([*row[:2], "n/a" if row[0] == "L03" else row[2], *row[3:]] for row in ROWS)]),
    "header_spec_dot_1100.csv": text(headed(*(f"spec.{nm}" for nm in LABELS))),
    "header_broken_over_lines.csv": text([["sample", "retting", '"moisture\n(%)"', *LABELS], *ROWS]),
    "header_with_trailing_mark.csv": text([[*HEADER, ""], *ROWS], ";"),
    "index_before_wavelengths.csv": text(spread(turned([["wavelength", *LABELS], *BARE]), 0, ["", *(str(c) for c in range(25))])),
    "wavelengths_without_header.csv": text(turned([LABELS, *(row[1:] for row in BARE)])),
    "wavelengths_below_numbers.csv": text(turned([["", *LABELS], *([str(417 + 3 * r), *BARE[r][1:]] for r in range(12))])),
    "long_without_header.csv": text(long(False)[1:]),
    "empty_column.csv": text(spread(USUAL, 1, ["note", *[""] * 12])),
    "classes_and_no_ids.csv": text([["retting", *LABELS], *([KINDS[r], *BARE[r][1:]] for r in range(12))]),
    "class_last.csv": text([[*LABELS, "retting"], *([*BARE[r][1:], KINDS[r]] for r in range(12))]),
    "times_of_day.csv": text(spread(USUAL, 2, ["clock", *(f"{8 + r // 2:02d}:{30 * (r % 2):02d}" for r in range(12))])),
}  # fmt: skip
