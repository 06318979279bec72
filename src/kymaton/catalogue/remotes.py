"""What is pressed to make other devices do something: panels, pedals, remotes, and the programs between."""

from kymaton.catalogue.parts import figure, out
from kymaton.core.model import Device


def _remote(id: str, name: str, detail: str, connector: str, battery_h: float = 0.0) -> Device:
    ports = (out("usb", "USB", "usb", connector, 0),) if connector else ()
    return Device(
        id=id, name=name, kind="remote", detail=detail, stage="mixed", ports=ports,
        battery_h=figure(battery_h, battery_h / 3) if battery_h else None,
    )  # fmt: skip


def button_panel(id: str, name: str = "Button panel") -> Device:
    """Buttons on USB; what they do is in a program on the computer."""
    return _remote(id, name, "buttons on USB", "USB A")


def foot_switch(id: str, name: str = "Foot switch") -> Device:
    """A pedal on USB: free hands for whoever plays."""
    return _remote(id, name, "pedal on USB", "USB A")


def hand_remote(id: str, name: str = "Hand remote") -> Device:
    """A remote that is held, by radio or light, on batteries."""
    return _remote(id, name, "held, wireless", "", 100.0)


def control_surface(id: str, name: str = "Control surface") -> Device:
    """Faders and buttons for a desk or a program that has none of its own."""
    return _remote(id, name, "faders and buttons", "USB A")


def bridge_program(id: str, name: str = "Bridge program") -> Device:
    """A program that passes presses on from panels to devices: all of them end with it."""
    return _remote(id, name, "program", "")
