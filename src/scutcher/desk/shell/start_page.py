"""What stands in the window while there are no data: how to bring some in, and the studies of late."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QToolButton, QVBoxLayout, QWidget

from scutcher.desk.actions.opening import Opening
from scutcher.desk.words import Words, tip
from scutcher.study.storage import state_folder as places

RECENT = 5
WIDE = 460  # pixels


class StartPaper(QWidget):
    """Open a file, look at the demo, or go on with a study."""

    def __init__(self, opening: Opening, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        column = QVBoxLayout(self)
        column.setSpacing(8)
        heading = Words("Bring in spectra, or any table of measurements")
        heading.setObjectName("wordmark")
        words = Words(
            "Drop files or a folder here: tables (CSV, TSV, XLSX, ODS, XLS, XLSM, XLSB, Parquet, Feather), "
            "spectra (x–y text, JCAMP-DX) or arrays (HDF5, NetCDF, NumPy, MATLAB, TIFF stack, Zarr, "
            "Raw numbers). Or paste a table with Ctrl+V. "
            "What was found in them is shown before it is taken."
        )
        words.setObjectName("empty")
        words.setWordWrap(True)
        words.setFixedWidth(WIDE)
        words.setAlignment(Qt.AlignmentFlag.AlignCenter)
        bring = QPushButton("Open a file…  Ctrl+O")
        demo = QPushButton("Look at the demo: a flax mill's intake")
        bring.setObjectName("primary")
        bring.clicked.connect(opening.ask_for_file)
        demo.clicked.connect(lambda: opening.open_demo("intake-nir"))
        middle = QHBoxLayout()  # not by alignment: that would cut words of several lines
        middle.addWidget(words)
        column.addStretch(2)
        column.addWidget(heading, 0, Qt.AlignmentFlag.AlignHCenter)
        column.addLayout(middle)
        for button in (bring, demo):
            column.addSpacing(8)
            column.addWidget(button, 0, Qt.AlignmentFlag.AlignHCenter)
        column.addSpacing(16)
        for path in places.recent()[:RECENT]:
            link = QToolButton()
            link.setText(f"{path.stem}   ·   {path.parent}")
            link.setToolTip(tip(f"Open the study {path}"))
            link.clicked.connect(lambda _=False, path=path: opening.open_study(path))
            column.addWidget(link, 0, Qt.AlignmentFlag.AlignHCenter)
        column.addStretch(3)
