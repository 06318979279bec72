"""The value objects of a show. An edit makes a new Show; nothing here ever changes in place."""

from kymaton.core.errors import ShowError
from kymaton.core.model.cues import Alternative, Cue, HandAction, Measurement, Variant
from kymaton.core.model.device import Cable, Condition, Control, ControlUse, Device, Port, Program, Route, Value
from kymaton.core.model.figure import Figure
from kymaton.core.model.loads import Gear, Meeting, Run, Stock, Supply, Tick
from kymaton.core.model.people import Listener, Person, Place, Sound, Stem
from kymaton.core.model.show import Checked, MicrophoneGroup, Picture, Show
from kymaton.core.model.wish import PictureWish, Want, Wish

__all__ = [
    "Alternative",
    "Cable",
    "Checked",
    "Condition",
    "Control",
    "ControlUse",
    "Cue",
    "Device",
    "Figure",
    "Gear",
    "HandAction",
    "Listener",
    "Measurement",
    "Meeting",
    "MicrophoneGroup",
    "Person",
    "Picture",
    "PictureWish",
    "Place",
    "Port",
    "Program",
    "Route",
    "Run",
    "Show",
    "ShowError",
    "Sound",
    "Stem",
    "Stock",
    "Supply",
    "Tick",
    "Value",
    "Variant",
    "Want",
    "Wish",
]
