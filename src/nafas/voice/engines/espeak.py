"""The narrator that always works: eSpeak NG from the `espeakng-loader` wheel. Offline, about a hundred languages.

A line always sounds the same. The library would carry over the phase of its oscillators, its noise and more from one
reading to the next, through its own end and new start too, so that a line's samples and even its length depended on
what was read before. Hence it is loaded again for each reading (14 ms of 28, measured), which the cache makes few.
"""

import _ctypes
import ctypes
import threading

import numpy as np

from nafas.errors import InputError
from nafas.voice.clip import Samples

_OTHER_NAMES = {"no": "nb"}
"""Session languages whose voice goes by another code here."""

_RETRIEVAL = 1  # espeak_AUDIO_OUTPUT: hand the samples over, play nothing
_RATE = 1  # espeak_PARAMETER
_UTF8 = 1
_IPA, _TIED = 0x02 | ord("_") << 8, 0x82
_MAX_TEXT = 8000

_Callback = ctypes.CFUNCTYPE(ctypes.c_int, ctypes.POINTER(ctypes.c_short), ctypes.c_int, ctypes.c_void_p)


class Espeak:
    """eSpeak NG. The library keeps one global state, so all readings take turns."""

    _lock = threading.Lock()
    _library: ctypes.CDLL | None = None
    _has_read = False
    _sample_rate = 0
    _pieces: "list[Samples]" = []  # noqa: RUF012 - the C library has one callback for the whole process
    _callback = _Callback()

    @property
    def name(self) -> str:
        return "espeak-ng-loader-0.2.4-afresh"

    @property
    def readings(self) -> int:
        return 1

    def read(self, text: str, voice: str, pace: int, reading: int = 0) -> tuple[Samples, int]:
        """See `Engine.read`. `pace` 80 to 450 words a minute; it has one reading of a line."""
        if len(text) > _MAX_TEXT:
            raise InputError(text[:40] + "…", f"a line of {len(text)} characters", f"keep it under {_MAX_TEXT}")
        with Espeak._lock:
            if Espeak._has_read:
                self._unload()
            library = self._start()
            if library.espeak_SetVoiceByName(_OTHER_NAMES.get(voice, voice).encode()) != 0:
                raise InputError(f"voice {voice!r}", "eSpeak has no such voice", 'try "en" or "es"')
            Espeak._has_read = True
            library.espeak_SetParameter(_RATE, min(450, max(80, pace)), 0)
            Espeak._pieces.clear()
            # A NUL would end the text early for a C library.
            data = text.replace("\0", " ").encode() + b"\0"
            library.espeak_Synth(data, len(data), 0, 1, 0, _UTF8, None, None)
            library.espeak_Synchronize()
            joined = np.concatenate([*Espeak._pieces, np.zeros(0, np.float32)])
            Espeak._pieces.clear()
            return joined, Espeak._sample_rate

    def phonemes(self, text: str, voice: str, tie: str = "") -> str:
        """How a line is said, in IPA. Raises InputError: there is no such voice.

        Args:
            text, voice: as `read`.
            tie: stands between the letters of one sound; without it "_" stands between sounds.
        """
        form = _TIED | ord(tie) << 8 if tie else _IPA
        with Espeak._lock:
            library = self._start()
            if library.espeak_SetVoiceByName(_OTHER_NAMES.get(voice, voice).encode()) != 0:
                raise InputError(f"voice {voice!r}", "eSpeak has no such voice", 'try "en" or "es"')
            rest = ctypes.c_char_p(text.replace("\0", " ").encode())
            at, said = ctypes.cast(rest, ctypes.c_void_p), []
            while at.value:  # a clause at a time
                said.append(library.espeak_TextToPhonemes(ctypes.byref(at), _UTF8, form))
            return (" " if tie else "_").join(part.decode() for part in said if part)

    @classmethod
    def _start(cls) -> ctypes.CDLL:
        if cls._library is None:
            import espeakng_loader

            library = ctypes.CDLL(espeakng_loader.get_library_path())
            rate = library.espeak_Initialize(_RETRIEVAL, 0, espeakng_loader.get_data_path().encode(), 0)
            if rate <= 0:
                raise InputError("eSpeak", "its data cannot be read", "install Nafas again")
            cls._callback = _Callback(cls._keep)
            library.espeak_SetSynthCallback(cls._callback)
            library.espeak_TextToPhonemes.restype = ctypes.c_char_p
            cls._library, cls._sample_rate = library, rate
        return cls._library

    @classmethod
    def _unload(cls) -> None:
        library, cls._library, cls._has_read = cls._library, None, False
        if library is not None:
            library.espeak_Terminate()
            _ctypes.dlclose(library._handle)

    @staticmethod
    def _keep(wave: "ctypes._Pointer[ctypes.c_short]", count: int, events: int | None) -> int:
        if wave and count > 0:
            Espeak._pieces.append(np.ctypeslib.as_array(wave, (count,)).astype(np.float32) / np.float32(32768))
        return 0
