"""Colours, sizes and weights, by day and by night."""

from msgspec import Struct


class Tokens(Struct, frozen=True):
    name: str
    ground: str
    panel: str
    raised: str
    ink: str
    soft: str
    faint: str
    line: str
    wave: str
    wash: str
    fault: str
    fault_wash: str
    caution: str
    caution_wash: str
    rail: str
    rail_text: str
    rail_soft: str
    on_wave: str


DAY = Tokens(
    name="day",
    ground="#F4F1E9",
    panel="#FCFAF5",
    raised="#FFFFFF",
    ink="#1C2733",
    soft="#56626E",
    faint="#8F979E",
    line="#DDD7C9",
    wave="#12646B",
    wash="#DCEBE9",
    fault="#B5371F",
    fault_wash="#F8E2DB",
    caution="#8A5A00",
    caution_wash="#F6E9CC",
    rail="#1C2B38",
    rail_text="#E9E4D6",
    rail_soft="#9DB0BC",
    on_wave="#FFFFFF",
)
NIGHT = Tokens(
    name="night",
    ground="#10171E",
    panel="#172029",
    raised="#1D2832",
    ink="#E8E3D7",
    soft="#A9B4BC",
    faint="#6F7C86",
    line="#2B3843",
    wave="#6CC4C4",
    wash="#1D3B40",
    fault="#FF8A6B",
    fault_wash="#45241D",
    caution="#E6B450",
    caution_wash="#3E3118",
    rail="#0B1117",
    rail_text="#E8E3D7",
    rail_soft="#7F909B",
    on_wave="#10171E",
)

WORDS = "Atkinson Hyperlegible Next"
FIGURES = "Atkinson Hyperlegible Mono"
