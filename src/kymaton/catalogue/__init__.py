"""Generic device kinds: small functions with parameters that make Devices."""

from kymaton.catalogue.calls import Guest, call, call_computer
from kymaton.catalogue.cameras import camera
from kymaton.catalogue.desk import desk
from kymaton.catalogue.ends import headphones, in_ear, loudspeakers, recorder, stream
from kymaton.catalogue.pickups import (
    clip_on_microphone,
    condenser_microphone,
    di_box,
    dynamic_microphone,
    microphone,
    phone,
    player,
    stereo_player,
    wireless_microphone,
)
from kymaton.catalogue.pictures import capture, encoder, slides, switcher

__all__ = [
    "Guest",
    "call",
    "call_computer",
    "camera",
    "capture",
    "clip_on_microphone",
    "condenser_microphone",
    "desk",
    "di_box",
    "dynamic_microphone",
    "encoder",
    "headphones",
    "in_ear",
    "loudspeakers",
    "microphone",
    "phone",
    "player",
    "recorder",
    "slides",
    "stereo_player",
    "stream",
    "switcher",
    "wireless_microphone",
]
