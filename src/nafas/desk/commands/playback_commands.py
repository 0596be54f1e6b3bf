"""What the Play menu does: from what is chosen, over and over, and which parts of the mix are heard."""

from typing import TYPE_CHECKING

from nafas.desk import preferences
from nafas.desk.audio.outputs import SILENT

if TYPE_CHECKING:
    from nafas.desk.window import MainWindow
    from nafas.sound.mix.monitor import Parts


class PlaybackCommands:
    """Listening in one window."""

    def __init__(self, window: "MainWindow") -> None:
        self.window = window

    def play_chosen(self) -> None:
        """Play from where what is chosen begins."""
        player = self.window.player
        player.seek(self.window.score.play_place() or 0.0)
        player.play()

    def set_loop(self, on: bool) -> None:
        """Play what is chosen over and over, from now on, or straight on again."""
        window = self.window
        stretch = self._chosen_stretch() if on else None
        window.menus.loop.setChecked(stretch is not None)
        window.player.set_loop(stretch)
        if stretch is None:
            window.say("Choose a block or a round first" if on else "Repeating is off")
            return
        window.player.seek(stretch[0])
        window.player.play()
        window.say(f"Playing {stretch[1] - stretch[0]:.1f} s again and again (Ctrl+Alt+L stops it)")

    def _chosen_stretch(self) -> tuple[float, float] | None:
        """From and to, in seconds, of the chosen round or the chosen blocks."""
        timeline, editing = self.window.preparation.timeline, self.window.editing
        chosen = editing.chosen
        if timeline is None or not 0 <= chosen.block < len(timeline.blocks):
            return None
        if chosen.round and not editing.also:
            return timeline.round_span(chosen.block, chosen.round)
        places = sorted(editing.also or {chosen.block})
        return float(timeline.blocks[places[0]].start), float(timeline.blocks[places[-1]].end)

    def hear(self, parts: "Parts") -> None:
        """Hear these parts of the mix."""
        self.window.player.set_parts(parts)
        for name, action in self.window.menus.parts.items():
            # The three parts of the mix are muted, the clicks are added.
            action.setChecked(getattr(parts, name) is (name == "clicks"))

    def hear_alone(self, name: str) -> None:
        """Hear one part of the mix alone."""
        self.hear(self.window.player.parts.alone(name))

    def set_speed(self, speed: float) -> None:
        """Play slower or faster at the same pitch, to check by ear; what is rendered stays as it is."""
        self.window.player.set_speed(speed)
        its_own = "Playing at its own speed"
        self.window.say(its_own if speed == 1 else f"Playing at {speed:g} of its speed, to check by ear")

    def set_output(self, name: str) -> None:
        """Play to a device by its name, from now on and the next time too."""
        preferences.choose_output(name)
        self.window.player.reopen()
        silent = "No sound: timing only"
        self.window.say(silent if name == SILENT else f"Playing to {name or 'the system default'}")
