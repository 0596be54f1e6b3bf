"""How Qt's own controls look: the palette and the style sheet, made of the colours of the theme."""

from PySide6.QtGui import QPalette
from PySide6.QtWidgets import QApplication

from nafas.desk.marks import arrow_file
from nafas.drawing.theme import Theme, font, use

_WORN = "nafas night"  # the property that says which colours an application has


def apply(app: QApplication, night: bool) -> None:
    """Give the application the typeface, the palette and the style sheet of the night or of the day."""
    t = use(night)
    if app.property(_WORN) == night:  # a style sheet is laid on every widget there is
        return
    if app.property(_WORN) is None:
        app.setStyle("Fusion")
        app.setFont(font())
    app.setProperty(_WORN, night)
    palette = QPalette()
    roles = QPalette.ColorRole
    for role, colour in {
        roles.Window: t.paper, roles.WindowText: t.ink, roles.Base: t.page, roles.AlternateBase: t.paper,
        roles.Text: t.ink, roles.Button: t.paper, roles.ButtonText: t.ink, roles.Highlight: t.accent,
        roles.HighlightedText: t.on_accent, roles.PlaceholderText: t.muted, roles.ToolTipBase: t.page,
        roles.ToolTipText: t.ink, roles.Link: t.accent, roles.Accent: t.accent,
    }.items():  # fmt: skip
        palette.setColor(role, colour)
    for role in (roles.WindowText, roles.Text, roles.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, t.muted)
    app.setStyleSheet("")  # from one sheet straight to another Qt takes four times as long
    app.setPalette(palette)
    app.setStyleSheet(_style(t))


def _style(t: Theme) -> str:
    c = {name: getattr(t, name).name() for name in Theme.__dataclass_fields__}
    down, up = (arrow_file(c["ink"], up) for up in (False, True))
    return f"""
    QMainWindow, QDialog {{ background: {c["paper"]}; }}
    QToolTip {{ color: {c["ink"]}; background: {c["page"]}; border: 1px solid {c["rule"]}; padding: 3px; }}
    QLabel#heading {{ font-size: 15pt; font-weight: 600; }}
    QLabel#name {{ font-size: 26pt; font-weight: 600; }}
    QLabel#section {{ color: {c["muted"]}; font-weight: 600; padding-top: 8px; }}
    QLabel#muted {{ color: {c["muted"]}; }}
    QFrame#notice {{ background: {c["page"]}; border: 1px solid {c["accent"]}; border-radius: 4px; }}
    QFrame#card {{ background: {c["page"]}; border: 1px solid {c["rule"]}; border-radius: 8px; }}
    QPushButton#link {{ background: transparent; border: none; padding: 2px 4px; font-weight: 600;
        color: {c["accent"]}; }}
    QPushButton#link:focus {{ background: {c["chosen"]}; }}
    QTextBrowser {{ background: {c["page"]}; color: {c["ink"]}; border: 1px solid {c["rule"]}; border-radius: 6px; }}
    QFrame#readings {{ background: {c["page"]}; border: 1px solid {c["rule"]}; border-radius: 4px; }}
    QLabel#fault {{ color: {c["warning"]}; }}
    QLabel#entryFault {{
        color: {c["warning"]}; background: {c["page"]}; border: 1px solid {c["rule"]}; border-radius: 4px;
    }}
    QLineEdit, QPlainTextEdit {{
        background: {c["page"]}; color: {c["ink"]}; border: 1px solid {c["rule"]}; border-radius: 4px;
        padding: 3px 6px; selection-background-color: {c["accent"]}; selection-color: {c["on_accent"]};
    }}
    QLineEdit:focus, QPlainTextEdit:focus {{ border: 2px solid {c["accent"]};
        padding: 2px 5px; }}
    QLineEdit[fault="true"] {{ border: 2px solid {c["warning"]}; }}
    QAbstractSpinBox QLineEdit, QAbstractSpinBox QLineEdit:focus {{ border: none; padding: 0; }}
    QComboBox QAbstractItemView {{ background: {c["page"]}; color: {c["ink"]};
        selection-background-color: {c["accent"]}; selection-color: {c["on_accent"]}; }}
    QComboBox, QAbstractSpinBox {{
        background: {c["page"]}; color: {c["ink"]}; border: 1px solid {c["rule"]}; border-radius: 4px; padding: 3px 6px;
        min-height: 19px;
    }}
    QComboBox:hover, QAbstractSpinBox:hover {{ border-color: {c["accent"]}; }}
    QComboBox:focus, QAbstractSpinBox:focus {{ border: 2px solid {c["accent"]}; padding: 2px 5px; }}
    QComboBox:disabled, QAbstractSpinBox:disabled {{ color: {c["muted"]}; background: {c["paper"]}; }}
    QComboBox::drop-down {{ border: none; width: 20px; }}
    QComboBox::down-arrow {{ image: url("{down}"); width: 10px; height: 10px; }}
    QAbstractSpinBox::up-button, QAbstractSpinBox::down-button {{ border: none; background: transparent; width: 18px; }}
    QAbstractSpinBox::up-arrow {{ image: url("{up}"); width: 9px; height: 9px; }}
    QAbstractSpinBox::down-arrow {{ image: url("{down}"); width: 9px; height: 9px; }}
    QPushButton, QToolButton {{
        background: {c["page"]}; color: {c["ink"]}; border: 1px solid {c["rule"]}; border-radius: 5px;
        padding: 5px 12px;
    }}
    QPushButton:hover, QToolButton:hover {{ border-color: {c["accent"]}; }}
    QPushButton:focus, QToolButton:focus {{ border: 2px solid {c["accent"]}; padding: 4px 11px; }}
    QPushButton:disabled, QToolButton:disabled {{ color: {c["muted"]}; }}
    QPushButton#primary {{ background: {c["accent"]}; color: {c["on_accent"]}; border-color: {c["accent"]};
        font-weight: 600; }}
    QPushButton#primary:focus {{ border: 2px solid {c["ink"]}; }}
    QPushButton#primary:disabled {{ background: {c["rule"]}; color: {c["muted"]}; border-color: {c["rule"]}; }}
    QPushButton#fold {{ background: transparent; border: none; padding: 0; }}
    QPushButton#small {{ padding: 4px 4px; }}
    QPushButton#small:focus {{ padding: 3px 3px; }}
    QPushButton#view {{ background: transparent; border: none; border-bottom: 3px solid transparent; border-radius: 0;
        padding: 5px 7px; color: {c["muted"]}; font-weight: 600; }}
    QPushButton#view:checked {{ color: {c["ink"]}; border-bottom-color: {c["accent"]}; }}
    QPushButton#view:focus {{ background: {c["chosen"]}; }}
    QListView, QTreeView, QTableView {{ background: {c["page"]}; border: 1px solid {c["rule"]}; border-radius: 6px;
        outline: none; gridline-color: {c["rule"]}; }}
    QListView#plain::item {{ padding: 5px 8px; }}
    QListView#plain::item:selected {{ background: {c["chosen"]}; color: {c["ink"]};
        border-left: 3px solid {c["accent"]}; padding-left: 5px; }}
    QTreeView::item {{ padding: 4px 6px; }}
    QTreeView::item:selected, QTableView::item:selected {{ background: {c["chosen"]}; color: {c["ink"]};
        border-bottom: 2px solid {c["accent"]}; }}
    QHeaderView {{ background: {c["paper"]}; border: none; }}
    QHeaderView::section {{ background: {c["paper"]}; color: {c["muted"]}; border: none;
        border-bottom: 1px solid {c["rule"]}; padding: 4px 8px; font-weight: 600; }}
    QTableCornerButton::section {{ background: {c["paper"]}; border: none; }}
    QListView:focus, QTreeView:focus, QTableView:focus {{ border: 2px solid {c["accent"]}; }}
    QScrollArea {{ border: none; background: transparent; }}
    QScrollArea > QWidget > QWidget {{ background: transparent; }}
    QMenuBar {{ background: {c["paper"]}; color: {c["ink"]}; }}
    QMenu {{ background: {c["page"]}; color: {c["ink"]}; border: 1px solid {c["rule"]}; }}
    QMenu::item:disabled {{ color: {c["muted"]}; }}
    QMenuBar::item:selected, QMenu::item:selected {{ background: {c["accent"]}; color: {c["on_accent"]}; }}
    QProgressBar {{ background: {c["page"]}; border: 1px solid {c["rule"]}; border-radius: 4px; text-align: center; }}
    QProgressBar::chunk {{ background: {c["inhale"]}; border-radius: 3px; }}
    QSplitter::handle {{ background: transparent; }}
    QScrollBar:vertical {{ background: transparent; width: 12px; margin: 2px; }}
    QScrollBar::handle:vertical {{ background: {c["rule"]}; border-radius: 4px; min-height: 30px; }}
    QScrollBar:horizontal {{ background: transparent; height: 12px; margin: 2px; }}
    QScrollBar::handle:horizontal {{ background: {c["rule"]}; border-radius: 4px; min-width: 30px; }}
    QAbstractScrollArea::corner {{ background: transparent; border: none; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QStatusBar {{ color: {c["muted"]}; }}
    """
