"""Amplifiers and rooms of other makers: LADSPA plugins of Debian's, fetched when a benchmark asks for them.

Nothing in the measuring was set by them. caps (GPL-3): a tube amplifier with its tone stack and sagging supply, and
cabinets; rev-plugins (GPL-2): a room. They are loaded as their interface says (LADSPA 1.1, ladspa.h), not by a host.
"""

from __future__ import annotations

import contextlib
import ctypes
import tempfile
from functools import cache
from pathlib import Path

import numpy as np

from benchmarks._notes import CACHE, RATE_HZ, Samples, debian

PACKAGES = {"caps": "caps.so", "rev-plugins": "zita-reverbs.so"}
_BLOCK = 4096
_INPUT, _CONTROL = 1, 4

_Handle = ctypes.c_void_p
_Port = ctypes.POINTER(ctypes.c_float)


class _Descriptor(ctypes.Structure):
    """ladspa.h: LADSPA_Descriptor."""


_Descriptor._fields_ = [
    ("unique_id", ctypes.c_ulong),
    ("label", ctypes.c_char_p),
    ("properties", ctypes.c_int),
    ("name", ctypes.c_char_p),
    ("maker", ctypes.c_char_p),
    ("copyright", ctypes.c_char_p),
    ("port_count", ctypes.c_ulong),
    ("ports", ctypes.POINTER(ctypes.c_int)),
    ("port_names", ctypes.POINTER(ctypes.c_char_p)),
    ("hints", ctypes.c_void_p),
    ("data", ctypes.c_void_p),
    ("instantiate", ctypes.CFUNCTYPE(_Handle, ctypes.POINTER(_Descriptor), ctypes.c_ulong)),
    ("connect_port", ctypes.CFUNCTYPE(None, _Handle, ctypes.c_ulong, _Port)),
    ("activate", ctypes.CFUNCTYPE(None, _Handle)),
    ("run", ctypes.CFUNCTYPE(None, _Handle, ctypes.c_ulong)),
    ("run_adding", ctypes.c_void_p),
    ("set_run_adding_gain", ctypes.c_void_p),
    ("deactivate", ctypes.c_void_p),
    ("cleanup", ctypes.CFUNCTYPE(None, _Handle)),
]


def through(sound: Samples, package: str, label: str, **controls: float) -> Samples:
    """A sound, shape (n_samples,), through a plugin; controls by the first words of their names, all of them. Of a
    plugin with several outputs the first.
    """
    plugin = _plugin(package, label)
    names = [plugin.port_names[i].decode() for i in range(plugin.port_count)]
    values = [ctypes.c_float(0.0) for _ in names]
    blocks = [np.zeros(_BLOCK, np.float32) for _ in names]
    handle = plugin.instantiate(ctypes.byref(plugin), RATE_HZ)
    taken = set()
    for i, name in enumerate(names):
        if plugin.ports[i] & _CONTROL:
            if plugin.ports[i] & _INPUT:
                own = name.split(" ")[0].lower().replace("-", "_")
                values[i].value = controls[own]
                taken.add(own)
            plugin.connect_port(handle, i, ctypes.pointer(values[i]))
        else:
            plugin.connect_port(handle, i, blocks[i].ctypes.data_as(_Port))
    if taken != set(controls):
        raise ValueError(f"{label} has no {', '.join(set(controls) - taken)}")
    if plugin.activate:
        plugin.activate(handle)
    inputs = [b for i, b in enumerate(blocks) if plugin.ports[i] & _INPUT and not plugin.ports[i] & _CONTROL]
    (output, *_) = [b for i, b in enumerate(blocks) if not plugin.ports[i] & (_INPUT | _CONTROL)]
    padded = np.append(sound, np.zeros(-len(sound) % _BLOCK)).astype(np.float32)
    made = np.empty_like(padded)
    for first in range(0, len(padded), _BLOCK):
        for block in inputs:
            block[:] = padded[first : first + _BLOCK]
        plugin.run(handle, _BLOCK)
        made[first : first + _BLOCK] = output
    plugin.cleanup(handle)
    return made[: len(sound)].astype(np.float64)


def tube_amp(sound: Samples, *, gain: float, cabinet: int) -> Samples:
    """The tube amplifier at a gain (0 to 1) through one of its cabinets; as loud as it came in, at its loudest."""
    peak = max(1e-9, float(np.abs(sound).max()))
    amplified = through(
        0.7 * sound / peak, "caps", "AmpVTS", over=1, gain=gain, bright=0.6, power=0.5, tonestack=0, bass=0.3, mid=0.6,
        treble=0.7, attack=0.25, squash=0.5, lowcut=0.6,
    )  # fmt: skip
    made = through(amplified, "caps", "CabinetIII", model=cabinet, alt=0, gain=0.0)
    return np.asarray(made / max(1e-9, float(np.abs(made).max())) * peak)


def room(sound: Samples, *, rt60_s: float, wet: float) -> Samples:
    """A room of a reverberation time, a little longer for low tones; wet: its share of the whole."""
    return through(
        sound, "rev-plugins", "zita-reverb", delay=10.0, xover=200.0, rt_low=1.2 * rt60_s, rt_mid=rt60_s,
        damping=6000.0, f1_freq=160.0, f1_gain=0.0, f2_freq=2500.0, f2_gain=0.0, output=wet,
    )  # fmt: skip


@cache
def _plugin(package: str, label: str) -> _Descriptor:
    library = ctypes.CDLL(str(_library(package)))
    library.ladspa_descriptor.restype = ctypes.POINTER(_Descriptor)
    library.ladspa_descriptor.argtypes = [ctypes.c_ulong]
    index = 0
    while found := library.ladspa_descriptor(index):
        if found.contents.label.decode() == label:
            return found.contents
        index += 1
    raise ValueError(f"{package} has no {label}")


def _library(package: str) -> Path:
    """Of a package, fetched where it is not there yet."""
    place = CACHE / package / "usr" / "lib" / "ladspa" / PACKAGES[package]
    if not place.exists():
        CACHE.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(dir=CACHE) as name:
            unpacked = debian(package, Path(name))
            with contextlib.suppress(OSError):  # another was quicker
                unpacked.rename(CACHE / package)
    return place
