"""Fonts and the style sheet; every colour comes from `charts.colours`."""

from __future__ import annotations

from importlib.resources import files

from PySide6.QtGui import QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

from scutcher.charts import colours

FAMILY = "Inter"
BASE_PX = 12


def load_fonts() -> list[str]:
    """Make the shipped faces known; the answer is the families found."""
    families: list[str] = []
    folder = files("scutcher.desk") / "fonts"
    for face in ("Regular", "SemiBold", "Bold"):
        data = (folder / f"Inter-{face}.ttf").read_bytes()
        families += QFontDatabase.applicationFontFamilies(QFontDatabase.addApplicationFontFromData(data))
    return families


def base_font() -> QFont:
    """The application's face: tabular figures, no hinting."""
    font = QFont(FAMILY)
    font.setPixelSize(BASE_PX)
    font.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    font.setFeature(QFont.Tag("tnum"), 1)
    return font


def dress(application: QApplication) -> None:
    """Give the application its fonts, palette and style sheet."""
    load_fonts()
    application.setFont(base_font())
    palette = application.palette()
    palette.setColor(QPalette.ColorRole.Window, colours.LINEN)
    palette.setColor(QPalette.ColorRole.Base, colours.PAPER)
    palette.setColor(QPalette.ColorRole.WindowText, colours.INK)
    palette.setColor(QPalette.ColorRole.Text, colours.INK)
    palette.setColor(QPalette.ColorRole.Highlight, colours.ACCENT)
    palette.setColor(QPalette.ColorRole.HighlightedText, colours.PAPER)
    for role in (QPalette.ColorRole.Link, QPalette.ColorRole.LinkVisited):
        palette.setColor(role, colours.INK)
    palette.setColor(QPalette.ColorRole.ButtonText, colours.INK)
    palette.setColor(QPalette.ColorRole.Button, colours.PAPER)
    palette.setColor(QPalette.ColorRole.PlaceholderText, colours.MUTED)
    palette.setColor(QPalette.ColorRole.ToolTipBase, colours.PAPER)
    palette.setColor(QPalette.ColorRole.ToolTipText, colours.INK)
    application.setPalette(palette)
    application.setStyleSheet(style_sheet())


def style_sheet() -> str:
    """The style of every widget, by its class or object name."""
    c = colours
    return f"""
    QWidget {{ color: {c.INK}; font-family: "{FAMILY}"; font-size: {BASE_PX}px; }}
    QMainWindow, #window {{ background: {c.LINEN}; }}
    #topbar {{ background: {c.LINEN}; border-bottom: 1px solid {c.HAIRLINE}; }}
    #trail {{ background: {c.LINEN}; border-right: 1px solid {c.HAIRLINE}; }}
    #ladder {{ background: {c.LINEN}; border-top: 1px solid {c.HAIRLINE}; }}
    #panel {{ background: {c.PAPER}; border: 1px solid {c.HAIRLINE}; border-radius: 4px; }}
    #wordmark {{ color: {c.ACCENT}; font-size: 15px; font-weight: 700; }}
    #quiet, #quiet QLabel {{ color: {c.MUTED}; font-size: 11px; }}
    #section {{ color: {c.MUTED}; font-size: 10px; font-weight: 600; }}
    #title {{ font-size: 11px; font-weight: 600; }}
    #strong {{ font-size: 12px; font-weight: 600; }}
    #finding {{ font-size: 12px; }}
    #readout {{ color: {c.MUTED}; font-size: 11px; }}
    #axistitle {{ color: {c.INK}; font-size: 11px; }}
    #empty {{ color: {c.MUTED}; font-size: 12px; }}
    QToolTip {{ background: {c.PAPER}; color: {c.INK}; border: 1px solid {c.HAIRLINE}; padding: 4px; }}
    QToolButton {{ border: none; background: transparent; color: {c.MUTED}; padding: 2px 6px;
        border-radius: 3px; font-size: 11px; }}
    QToolButton:hover {{ color: {c.INK}; }}
    QToolButton:checked {{ background: {c.CHIP}; color: {c.INK}; }}
    QToolButton:disabled {{ color: {c.FADED}; }}
    QToolButton:focus {{ outline: none; border-bottom: 1px solid {c.ACCENT}; border-radius: 0; }}
    QToolButton::menu-indicator {{ image: none; }}
    QToolButton#flush {{ padding: 0; margin: 0 0 0 -4px; }}
    #legend {{ font-size: 11px; }}
    #page {{ font-size: 13px; padding: 4px 2px; margin: 0 3px; }}
    #page:checked {{ background: transparent; color: {c.INK}; font-weight: 600;
        border-bottom: 2px solid {c.ACCENT}; border-radius: 0; }}
    QPushButton {{ background: {c.PAPER}; border: 1px solid {c.HAIRLINE}; border-radius: 4px;
        padding: 4px 10px; }}
    QPushButton:hover {{ border-color: {c.MUTED}; }}
    QPushButton:focus {{ border-color: {c.ACCENT}; }}
    QPushButton:disabled {{ color: {c.FADED}; }}
    QPushButton#primary {{ background: {c.ACCENT}; color: {c.PAPER}; border-color: {c.ACCENT};
        font-weight: 600; }}
    QPushButton#primary:disabled {{ background: {c.CHIP}; border-color: {c.CHIP}; color: {c.MUTED}; }}
    QLineEdit, QComboBox {{ background: {c.PAPER}; border: 1px solid {c.HAIRLINE}; border-radius: 4px;
        padding: 3px 8px; selection-background-color: {c.ACCENT}; }}
    QLineEdit:disabled, QComboBox:disabled {{ color: {c.FADED}; background: {c.LINEN}; }}
    QLineEdit:focus, QComboBox:focus {{ border-color: {c.ACCENT}; }}
    QComboBox::drop-down {{ border: none; width: 16px; }}
    QComboBox QAbstractItemView {{ background: {c.PAPER}; color: {c.INK}; border: 1px solid {c.HAIRLINE};
        selection-background-color: {c.CHIP}; selection-color: {c.INK}; outline: 0; padding: 2px; }}
    QListWidget {{ background: {c.PAPER}; border: 1px solid {c.HAIRLINE}; border-radius: 4px; outline: 0; }}
    QListWidget::item {{ padding: 0; }}
    QListWidget::item:selected {{ background: {c.CHIP}; color: {c.INK}; }}
    #rows {{ border: none; border-top: 1px solid {c.HAIRLINE}; border-radius: 0; }}
    #rows::item {{ padding: 1px 6px; }}
    QPlainTextEdit {{ background: {c.PAPER}; border: none; font-family: monospace; font-size: 11px; }}
    QPlainTextEdit#words {{ border: 1px solid {c.HAIRLINE}; border-radius: 4px; padding: 2px 4px;
        font-family: Inter; font-size: 12px; }}
    QPlainTextEdit#words:focus {{ border-color: {c.ACCENT}; }}
    #sheet {{ border: 1px solid {c.HAIRLINE}; }}
    QTableView {{ background: {c.PAPER}; border: none; font-size: 11px; outline: 0;
        selection-background-color: {c.CHIP}; selection-color: {c.INK}; }}
    QTableView::item {{ padding: 0 4px; }}
    QHeaderView {{ background: {c.PAPER}; }}
    QHeaderView::section {{ background: {c.PAPER}; color: {c.MUTED}; border: none; font-size: 11px;
        border-bottom: 1px solid {c.HAIRLINE}; padding: 3px 14px 3px 5px; }}
    FiguresTable[sortingEnabled="false"] QHeaderView::section {{ padding: 3px 7px; }}
    QScrollBar:vertical {{ background: transparent; width: 9px; }}
    QScrollBar:horizontal {{ background: transparent; height: 9px; }}
    QScrollBar::handle {{ background: {c.HAIRLINE}; border-radius: 4px; min-height: 24px; min-width: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QAbstractScrollArea::corner {{ background: transparent; border: none; }}
    QProgressBar {{ background: {c.CHIP}; border: none; border-radius: 3px; max-height: 6px; }}
    QProgressBar::chunk {{ background: {c.ACCENT}; border-radius: 3px; }}
    QSlider::groove:horizontal {{ height: 3px; background: {c.HAIRLINE}; border-radius: 1px; }}
    QSlider::handle:horizontal {{ width: 10px; margin: -4px 0; background: {c.ACCENT}; border-radius: 5px; }}
    QMenu {{ background: {c.PAPER}; border: 1px solid {c.HAIRLINE}; padding: 4px; }}
    QMenu::item {{ padding: 4px 18px; border-radius: 3px; }}
    QMenu::item:selected {{ background: {c.CHIP}; color: {c.INK}; }}
    QMenu::item:disabled {{ color: {c.MUTED}; }}
    QScrollArea, QScrollArea > QWidget > QWidget {{ background: transparent; border: none; }}
    #popover {{ background: {c.PAPER}; border: 1px solid {c.MUTED}; border-radius: 5px; }}
    #message {{ background: {c.PAPER}; border: 1px solid {c.ALARM}; border-radius: 4px; }}
    QSplitter::handle {{ background: transparent; }}
    """
