# SPDX-License-Identifier: GPL-3.0-or-later
"""The application's type and style sheet, from the table of colours."""

from __future__ import annotations

from importlib import resources

from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PyQt6.QtWidgets import QApplication

from gatepost.desk.theme.table import THEMES

FAMILY = "Atkinson Hyperlegible Next"


def load_type() -> None:
    """Make the shipped interface family known to Qt."""
    folder = resources.files("gatepost").joinpath("assets", "interface")
    for name in ("AtkinsonHyperlegibleNext-Regular.ttf", "AtkinsonHyperlegibleNext-SemiBold.ttf"):
        QFontDatabase.addApplicationFont(str(folder.joinpath(name)))


def font(size: float = 11.0, bold: bool = False) -> QFont:
    """The interface face. size in px."""
    f = QFont(FAMILY)
    f.setPixelSize(max(1, round(size)))
    f.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    return f


def dress(app: QApplication, theme: str) -> None:
    """Put type, palette and style sheet on, where they are not: every widget there is takes them anew."""
    c = THEMES[theme]
    worn = sheet(c)
    if app.styleSheet() == worn:
        return
    app.setFont(font(14))
    palette = QPalette()
    for role, name in (
        (QPalette.ColorRole.Window, "paper"), (QPalette.ColorRole.WindowText, "ink"), (QPalette.ColorRole.Base, "field"),
        (QPalette.ColorRole.Text, "ink"), (QPalette.ColorRole.Button, "paper"), (QPalette.ColorRole.ButtonText, "ink"),
        (QPalette.ColorRole.Highlight, "accent"), (QPalette.ColorRole.HighlightedText, "accent-ink"), (QPalette.ColorRole.ToolTipBase, "slate"),
        (QPalette.ColorRole.ToolTipText, "chalk"), (QPalette.ColorRole.PlaceholderText, "muted"),
    ):  # fmt: skip
        palette.setColor(role, QColor(c[name]))
    app.setPalette(palette)
    app.setStyleSheet(worn)


def _icon(name: str) -> str:
    """The path of a shipped icon, as a style sheet takes it."""
    return str(resources.files("gatepost").joinpath("assets", "icons", f"{name}.svg")).replace("\\", "/")


def sheet(c: dict[str, str]) -> str:
    """The style sheet for a table of colours."""
    return _desk_sheet(c) + _window_sheet(c)


def _desk_sheet(c: dict[str, str]) -> str:
    """The desk: bar, fence, slate, next step and messages."""
    return f"""
* {{ font-family: "{FAMILY}"; }}
QWidget {{ color: {c["ink"]}; }}
QMainWindow, QWidget#desk, QWidget#start {{ background: {c["paper"]}; }}
QWidget#top {{ background: {c["paper"]}; border-bottom: 1px solid {c["line"]}; }}
QLabel#jobname {{ font-size: 17px; font-weight: 600; }}
QLabel#blankline, QLabel#muted {{ color: {c["muted"]}; font-size: 14px; }}
QPushButton {{ background: {c["paper"]}; border: 1px solid {c["line"]}; border-radius: 5px; padding: 5px 12px; font-size: 14px; }}
QPushButton:hover {{ border-color: {c["accent"]}; }}
QPushButton:focus {{ border: 2px solid {c["accent"]}; padding: 4px 11px; }}
QPushButton:disabled {{ color: {c["muted"]}; }}
QPushButton#flat {{ border: none; background: transparent; }}
QPushButton#flat:focus {{ border: 2px solid {c["accent"]}; }}
QPushButton:checked {{ background: {c["chosen"]}; color: {c["chalk"]}; border-color: {c["chosen"]}; }}
QMenu {{ background: {c["paper"]}; border: 1px solid {c["line"]}; font-size: 14px; padding: 4px; }}
QMenu::item {{ padding: 6px 22px; }}
QMenu::item:selected {{ background: {c["accent"]}; color: {c["accent-ink"]}; }}
QMenu::item:disabled {{ color: {c["muted"]}; }}
QLineEdit {{ background: {c["field"]}; border: 1px solid {c["line"]}; border-radius: 4px; padding: 5px 7px; font-size: 14px; }}
QLineEdit:focus {{ border: 2px solid {c["accent"]}; padding: 4px 6px; }}
QLineEdit#placefield, QLineEdit#placefield:focus {{ border: 3px solid {c["accent"]}; border-radius: 7px; padding: 2px 10px; font-size: 20px; font-weight: 600; }}
QWidget#fence {{ background: {c["fence"]}; border-right: 1px solid {c["line"]}; }}
QWidget#canvas {{ background: {c["canvas"]}; }}
QWidget#slate {{ background: {c["slate"]}; }}
QWidget#slate QLabel {{ color: {c["chalk"]}; font-size: 14px; background: transparent; }}
QWidget#slate QLabel#title {{ font-size: 20px; font-weight: 600; }}
QWidget#slate QLabel#sub {{ color: {c["chalk-muted"]}; }}
QWidget#slate QLabel#unit {{ color: {c["chalk-muted"]}; font-size: 12px; }}
QWidget#slate QLabel#cell {{ font-size: 13px; }}
QWidget#slate QLabel#value {{ font-size: 18px; font-weight: 600; }}
QWidget#slate QLabel#group {{ color: {c["slate-ok"]}; font-weight: 600; padding-top: 6px; }}
QWidget#slate QFrame#rule {{ background: {c["slate-line"]}; border: none; }}
QWidget#slate QLabel#working {{ background: {c["sunk"]}; border-left: 3px solid {c["slate-ok"]}; padding: 8px 9px; font-size: 13px; }}
QWidget#slate QPushButton {{ background: transparent; color: {c["chalk"]}; border: 1px solid {c["key-line"]}; border-radius: 5px; padding: 4px 9px; text-align: left; }}
QWidget#slate QPushButton:hover {{ background: {c["key"]}; }}
QWidget#slate QPushButton:focus {{ border: 2px solid {c["slate-ok"]}; padding: 3px 8px; }}
QWidget#slate QPushButton:checked {{ background: {c["chalk"]}; color: {c["slate"]}; border-color: {c["chalk"]}; }}
QWidget#slate QPushButton#figure {{ border: none; border-radius: 0; padding: 0; text-align: left; }}
QWidget#slate QPushButton#figure:focus {{ border-bottom: 2px solid {c["slate-ok"]}; }}
QWidget#slate QLineEdit, QWidget#slate QComboBox, QWidget#slate QPlainTextEdit {{ background: {c["sunk"]}; color: {c["chalk"]}; border: none;
  border-bottom: 1px solid {c["key-line"]}; border-radius: 3px; padding: 4px 5px; font-size: 14px; selection-background-color: {c["accent"]}; }}
QWidget#slate QLineEdit:focus, QWidget#slate QComboBox:focus, QWidget#slate QPlainTextEdit:focus {{ border-bottom: 2px solid {c["slate-ok"]}; }}
QWidget#slate QLineEdit[wrong="true"] {{ border-bottom: 2px solid {c["slate-stop"]}; }}
QWidget#slate QComboBox QAbstractItemView {{ background: {c["sunk"]}; color: {c["chalk"]}; border: 1px solid {c["key-line"]}; selection-background-color: {c["accent"]}; }}
QScrollArea, QScrollArea > QWidget > QWidget#inside {{ background: transparent; border: none; }}
QScrollBar:vertical {{ background: transparent; width: 9px; }}
QScrollBar::handle:vertical {{ background: {c["slate-line"]}; border-radius: 4px; min-height: 28px; }}
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{ background: none; height: 0; }}
QWidget#next {{ background: {c["accent"]}; }}
QWidget#next QLabel {{ color: {c["accent-ink"]}; font-size: 16px; }}
QWidget#next QLabel#keycap, QLabel#keycap {{ border: 1px solid {c["accent-ink"]}; border-radius: 4px; padding: 1px 8px; font-size: 13px; }}
QWidget#next QPushButton {{ background: {c["accent-ink"]}; color: #16211e; border: none; font-size: 16px; font-weight: 600; padding: 7px 18px; }}
QWidget#next QPushButton:focus {{ border: 2px solid #16211e; }}
QWidget#message {{ background: {c["slate"]}; border: 1px solid {c["chalk-muted"]}; border-radius: 6px; }}
QWidget#message QLabel {{ color: {c["chalk"]}; font-size: 14px; }}
QWidget#message QPushButton {{ background: transparent; color: {c["chalk"]}; border: 1px solid {c["key-line"]}; }}
"""


def _window_sheet(c: dict[str, str]) -> str:
    """Tables, dialogs, the start page and what they are made of."""
    return f"""
QTableWidget {{ background: {c["strip"]}; gridline-color: {c["line"]}; border: none; font-size: 14px; }}
QTableWidget::item {{ padding: 4px; }}
QTableWidget::item:selected {{ background: {c["accent"]}; color: {c["accent-ink"]}; }}
QHeaderView::section {{ background: {c["canvas"]}; color: {c["muted"]}; border: none; border-bottom: 1px solid {c["line"]}; padding: 6px; font-size: 13px; }}
QTableCornerButton::section {{ background: {c["canvas"]}; border: none; }}
QSlider::groove:horizontal {{ height: 4px; background: {c["slot"]}; border-radius: 2px; }}
QSlider::sub-page:horizontal {{ background: {c["accent"]}; border-radius: 2px; }}
QSlider::handle:horizontal {{ background: {c["accent"]}; width: 16px; margin: -6px 0; border-radius: 8px; }}
QSlider:focus {{ border: 1px solid {c["accent"]}; border-radius: 4px; }}
QDialog {{ background: {c["paper"]}; }}
QFrame#panel {{ background: {c["strip"]}; border: 1px solid {c["line"]}; border-radius: 8px; }}
QFrame#panel[now="true"] {{ border: 2px solid {c["accent"]}; }}
QPushButton#first {{ font-size: 17px; background: {c["accent"]}; color: {c["accent-ink"]}; border-color: {c["accent"]}; font-weight: 600; }}
QPushButton#first:focus {{ border: 3px solid {c["ink"]}; }}
QPushButton#first:disabled {{ background: {c["slot"]}; color: {c["muted"]}; border-color: {c["slot"]}; }}
QAbstractButton#card {{ background: {c["paper"]}; border: 1px solid {c["line"]}; border-radius: 8px; }}
QAbstractButton#card:hover {{ border-color: {c["accent"]}; }}
QAbstractButton#card:focus {{ border: 3px solid {c["accent"]}; }}
QLabel#cardpicture {{ background: {c["bed"]}; border-top-left-radius: 7px; border-top-right-radius: 7px; }}
QLabel#stop {{ color: {c["stop"]}; font-size: 14px; }}
QWidget#banner {{ background: {c["accent-soft"]}; border-radius: 8px; }}
QWidget#linkbox {{ background: {c["sunk"]}; border-radius: 6px; border-left: 4px solid {c["slate-line"]}; }}
QWidget#linkbox[state="ready"] {{ border-left-color: {c["slate-ok"]}; }}
QWidget#linkbox[state="busy"], QWidget#linkbox[state="paused"], QWidget#linkbox[state="connecting"] {{ border-left-color: {c["slate-care"]}; }}
QWidget#linkbox[state="lost"] {{ border-left-color: {c["slate-stop"]}; }}
QWidget#slate QLabel#linkstate {{ font-size: 17px; font-weight: 600; }}
QListWidget {{ background: {c["field"]}; border: 1px solid {c["line"]}; border-radius: 6px; font-size: 15px; }}
QListWidget::item {{ padding: 6px 8px; }}
QListWidget::item:selected {{ background: {c["accent"]}; color: {c["accent-ink"]}; }}
QRadioButton, QCheckBox {{ font-size: 15px; spacing: 8px; padding: 3px; }}
QRadioButton:focus, QCheckBox:focus {{ border: 2px solid {c["accent"]}; border-radius: 4px; padding: 1px; }}
QRadioButton::indicator {{ width: 14px; height: 14px; border: 2px solid {c["muted"]}; border-radius: 9px; background: {c["field"]}; }}
QRadioButton::indicator:checked {{ width: 8px; height: 8px; border: 5px solid {c["accent"]}; }}
QCheckBox::indicator {{ width: 14px; height: 14px; border: 2px solid {c["muted"]}; border-radius: 4px; background: {c["field"]}; }}
QCheckBox::indicator:checked {{ border-color: {c["accent"]}; background: {c["accent"]}; image: url("{_icon("tick-chalk")}"); }}
QComboBox {{ combobox-popup: 0; background: {c["field"]}; border: 1px solid {c["line"]}; border-radius: 4px; padding: 5px 7px; font-size: 14px; }}
QComboBox:focus {{ border: 2px solid {c["accent"]}; padding: 4px 6px; }}
QComboBox::drop-down {{ border: none; background: transparent; width: 22px; }}
QComboBox::down-arrow {{ image: url("{_icon("list-chalk" if QColor(c["field"]).lightness() < 128 else "list-ink")}"); width: 12px; height: 8px; }}
QWidget#slate QComboBox::down-arrow {{ image: url("{_icon("list-chalk")}"); }}
QComboBox QAbstractItemView::item {{ min-height: 26px; padding-left: 4px; }}
QComboBox QAbstractItemView {{ background: {c["field"]}; color: {c["ink"]}; selection-background-color: {c["accent"]}; selection-color: {c["accent-ink"]}; border: 1px solid {c["muted"]}; outline: none; }}
QPlainTextEdit {{ background: {c["field"]}; border: 1px solid {c["line"]}; border-radius: 6px; font-size: 14px; }}
QToolTip {{ background: {c["slate"]}; color: {c["chalk"]}; border: 1px solid {c["line"]}; padding: 4px; }}
"""
