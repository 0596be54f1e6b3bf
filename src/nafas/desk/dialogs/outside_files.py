"""Ask before a file that may come from anybody reads or writes outside its own folder."""

from pathlib import Path

from PySide6.QtWidgets import QMessageBox, QWidget

from nafas.desk.widgets.labels import message_box
from nafas.script import Session
from nafas.state.permissions import outside, permit

_MOST_NAMED = 8


def ask_outside(session: Session, folder: Path, parent: QWidget) -> None:
    """Name the files outside its folder that a session asks for and nobody has permitted, and ask for all of them."""
    paths = outside(session, folder)
    if not paths:
        return
    named = "\n".join(map(str, paths[:_MOST_NAMED]))
    more = f"\nand {len(paths) - _MOST_NAMED} more" if len(paths) > _MOST_NAMED else ""
    box = message_box(
        QMessageBox.Icon.Question,
        "Files outside the session's folder",
        f"“{session.title or 'Untitled session'}” uses files outside its own folder that were not chosen here.",
        f"{named}{more}\n\nRead them only if you know where this session comes from. It opens "
        "without them as well; what they hold is left out.",
        parent,
    )
    read = box.addButton("Read them", QMessageBox.ButtonRole.AcceptRole)
    leave = box.addButton("Leave them out", QMessageBox.ButtonRole.RejectRole)
    box.setDefaultButton(leave)
    box.exec()
    if box.clickedButton() is read:
        permit(paths)


def ask_outside_folder(path: Path, parent: QWidget) -> bool:
    """Ask whether a series may write into a folder outside its own; remembered where it may."""
    box = message_box(
        QMessageBox.Icon.Question,
        "A folder outside the series' own",
        "This series writes its recordings outside its own folder.",
        f"{path}\n\nAllow it only if you know where this series comes from. What others put there is never replaced.",
        parent,
    )
    write = box.addButton("Write there", QMessageBox.ButtonRole.AcceptRole)
    leave = box.addButton("Do not render", QMessageBox.ButtonRole.RejectRole)
    box.setDefaultButton(leave)
    box.exec()
    if box.clickedButton() is not write:
        return False
    permit([path])
    return True
