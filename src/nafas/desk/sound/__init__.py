"""The Sound view: how loud the session is from end to end, measured; its chimes and its bed to be heard."""

from nafas.desk.sound.view import SoundView

__all__ = ["SoundView"]
