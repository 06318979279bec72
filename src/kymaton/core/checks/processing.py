"""Music through voice processing: a call's noise suppression and automatic gain."""

from collections.abc import Iterable, Iterator, Sequence

from kymaton.core.checks.audibility import names
from kymaton.core.checks.registry import Finding, kind, worded
from kymaton.core.model import Listener, Sound, Want
from kymaton.core.signal.cue_solution import HEARD_DB, CueSolution
from kymaton.core.signal.trace import Path
from kymaton.core.words import sentence, the_device

ORIGINAL = "original sound"
ON, OFF = "on", "off"  # values of an echo canceller
VOICE = "voice"  # value of a processing control that works for voices only


def _together(view: CueSolution, findings: Sequence[Finding]) -> str:
    listeners, sounds = names(view, findings)
    where = the_device(view.show, str(findings[0].evidence["device"]))
    return sentence(f"{where.do('dull')} {sounds} for {listeners}")


def _pumped(view: CueSolution, findings: Sequence[Finding]) -> str:
    listeners, sounds = names(view, findings)
    where = the_device(view.show, str(findings[0].evidence["device"]))
    return sentence(f"the echo canceller of {where} works on {sounds} for {listeners}")


def _music_over(view: CueSolution, active: set[str]) -> Iterator[tuple[Listener, Sound, Path, int]]:
    """Music that must be heard and comes through one of these settings; the way, and the edge where it does."""
    through = {n for n, e in enumerate(view.graph.edges) if any(u.control in active for u in e.uses)}
    for listener, sound in view.arriving:
        if sound.kind not in ("instrument", "playback") or view.want(listener, sound) is not Want.MUST:
            continue
        if not view.audible(listener, sound, HEARD_DB):
            continue
        path = view.strongest_path(listener.id, sound.id)  # of what rings in a loop none may be listed
        edge = next((e for e in path.edges if e in through), None) if path is not None else None
        if path is not None and edge is not None:
            yield listener, sound, path, edge


@kind("voice-processing", rank=80, form="dulled", together=_together)
def voice_processing(view: CueSolution) -> Iterable[Finding]:
    """Music that must be heard through the voice processing of a call."""
    show = view.show
    processing = {c.id for c in show.controls() if c.role == "processing" and VOICE in c.choices}
    active = {c for c in processing if show.value(c, view.cue_id) == VOICE}
    for listener, sound, path, edge in _music_over(view, active) if active else ():
        uses = {u.control for e in path.edges for u in view.graph.edges[e].uses}
        finding = Finding(
            id="voice-processing",
            severity="caution",
            step="hearing",
            cue=view.cue_id,
            listener=listener.id,
            sound=sound.id,
            reason="Its voice processing takes held notes for noise. Ask for original sound on both sides.",
            evidence={"device": view.graph.edges[edge].device or ""},
            delays_us=(path.delay_us,),
            settings=tuple((c, ORIGINAL) for c in sorted(active) if c in uses),
        )
        yield worded(view, finding, _together)


@kind("canceller-on-music", rank=88, form="dulled", together=_pumped)
def canceller_on_music(view: CueSolution) -> Iterable[Finding]:
    """Music that must be heard through an echo canceller that is at work: whenever a guest talks it may be cut."""
    active = {c.use.control for c in view.graph.cancellers if view.show.value(c.use.control, view.cue_id) == ON}
    for listener, sound, path, edge in _music_over(view, active) if active else ():
        control = next(u.control for u in view.graph.edges[edge].uses if u.control in active)
        finding = Finding(
            id="canceller-on-music",
            severity="caution",
            step="hearing",
            cue=view.cue_id,
            listener=listener.id,
            sound=sound.id,
            reason="While a guest talks it takes the music for echo: it pumps, or is cut.",
            evidence={"device": view.graph.edges[edge].device or "", "control": control},
            delays_us=(path.delay_us,),
            remedy="Give the guest a return without the guest's own voice, and switch the canceller off.",
            settings=((control, OFF),),
        )
        yield worded(view, finding, _pumped)
