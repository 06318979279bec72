"""Levels: what clips, what is close to it, what drowns in noise, and how loud the programme will be."""

import itertools
from collections.abc import Iterable, Mapping, Sequence

from kymaton.core.checks.audibility import names, wanted
from kymaton.core.checks.registry import Finding, kind, worded
from kymaton.core.edits.ids import owner
from kymaton.core.levels.dose import allowed_minutes
from kymaton.core.levels.gain_stages import stages_of
from kymaton.core.levels.port_levels import SPOKEN, Place, PortLevels, power_sum
from kymaton.core.levels.programme import ESTIMATE_LU, programme_lufs
from kymaton.core.model import Listener
from kymaton.core.signal.cue_solution import HEARD_DB, CueSolution
from kymaton.core.units import SILENT
from kymaton.core.words import Noun, db, group, joined, named, number, sentence, the_port

SURELY_DB = 6.0  # by so much peaks are over what a stage takes where it is a fault: as much as assumed figures may err
SUM_DB = 10.0  # more than this all sounds together are not over the loudest: ten of them
HOT_DB = 1.0  # less headroom than this is no headroom
QUIET_DB = {"audience": 40.0, "recorder": 40.0}  # a voice so far over the noise is clean; chosen
QUIET_ELSEWHERE_DB = 25.0  # for people in a room or a call
MADE_HERE = ("voice", "instrument")
FAR_BELOW_DB = 24.0  # twice the usual room behind a first gain
LATE_DB = 6.0  # of gain behind it
LOST_DB = 6.0  # of that distance, at one stage: there it is lost
GOAL_LU = 3.0  # a programme that is farther from its goal than this is told
APART_DB = 20.0  # two sounds on one gain: what is set for one is wrong for the other
OF_ALL_DB = 30.0  # a sound that is so far under the loudest at an input is not meant there
CRITICAL_M = 1.0  # where what is direct and what the room gives are alike, in a small furnished room; assumed
AIMED = 1.7  # how much farther a microphone reaches that is aimed (a cardioid): the root of 3
DAY_MIN = 24 * 60.0
LOUD_MINUTES = 60.0  # of a cue whose length is not known


def levels_of(view: CueSolution) -> PortLevels:
    """The levels of a cue, worked out once."""
    known = view.memo.get("levels")
    if not isinstance(known, PortLevels):
        known = view.memo["levels"] = PortLevels(view)
    return known


def _clipping(view: CueSolution, findings: Sequence[Finding]) -> str:
    ports = joined(dict.fromkeys(str(f.evidence["stage"]) for f in findings))
    _, sounds = names(view, findings)
    who = Noun("all together", True) if all(f.sound is None for f in findings) else sounds
    clips = who.do("clip") if findings[0].id == "clips" else f"{who.do('come')} close to clipping"
    return sentence(f"{clips} at {ports}")


@kind("clips", rank=22, gathered="all", together=_clipping)
@kind("hot", rank=122, gathered="all", together=_clipping)
def clips(view: CueSolution) -> Iterable[Finding]:
    """Stages whose peaks are above what they take, also behind a gain where a fader hides it; and those close to it."""
    levels = levels_of(view)
    rings = {port for loop in view.loops if loop.margin_db <= 0 for port in loop.ports(view.graph)}  # told as a loop
    over = {place: _over(levels, place) for place in levels.peaks if place[0] not in rings}
    told_gains: set[Place] = set()
    told: set[tuple[str, str | None, int]] = set()
    for stage in stages_of(levels):
        if stage.clip_db is None or stage.source[0] in rings:
            continue
        before_it = levels.peaks.get(stage.source, {})
        for sound, top in _tops(levels, {s: x + stage.adds_db for s, x in before_it.items()}, stage.clip_db):
            if over.get(stage.source, {}).get(sound, SILENT) >= top - stage.clip_db - 0.5:
                continue  # it clips before the gain already
            found = _clip(
                view, stage.source[0], view.show.control(stage.control).name, sound, top, stage.clip_db, levels
            )
            if found is not None:
                told_gains.add(stage.source)
                yield found
    before: dict[Place, set[Place]] = {}
    graph = view.graph
    for edge in range(len(graph.src)):
        if view.state.gain_db[edge] > SILENT:
            source, target = graph.nodes[int(graph.src[edge])], graph.nodes[int(graph.dst[edge])]
            before.setdefault(target, set()).add(source)
    for place, excess in over.items():
        clip = levels.clip(place)
        if clip is None:
            continue
        sources = before.get(place, set())
        for sound, by in excess.items():
            at_source = max((over.get(s, {}).get(sound, SILENT) for s in sources), default=SILENT)
            gained = sources & told_gains
            if at_source >= by - 0.5 or gained or place[1] != _first_channel(over, place, sound):
                continue
            found = _clip(view, place[0], the_port(view.show, place[0]), sound, clip + by, clip, levels)
            alike = (owner(place[0]), sound, round(by))
            if found is not None and alike not in told:  # of two outputs that give the same one is enough
                told.add(alike)
                yield found


def _first_channel(over: dict[Place, dict[str | None, float]], place: Place, sound: str | None) -> int:
    """The channel of a socket at which a sound is farthest over: it is told once."""
    channels = [(by[sound], -c) for (port, c), by in over.items() if port == place[0] and sound in by]
    return -max(channels)[1]


def _over(levels: PortLevels, place: Place) -> dict[str | None, float]:
    """By how much each sound's peaks are over what a place takes; of all together (None) where no single one is."""
    clip = levels.clip(place)
    if clip is None:
        return {}
    return {s: top - clip for s, top in _tops(levels, levels.peaks[place], clip) if top > clip - HOT_DB}


def _tops(levels: PortLevels, peaks: Mapping[str, float], clip: float) -> list[tuple[str | None, float]]:
    """The peak of each sound that is near what is taken, and of all together where they are louder than the loudest."""
    loudest = max(peaks.values(), default=SILENT)
    if loudest < clip - HOT_DB - SUM_DB:
        return []
    found: list[tuple[str | None, float]] = [*peaks.items()]
    whole = levels.top_of(peaks)
    return [*found, (None, whole)] if whole > loudest + 1.0 else found


def _clip(
    view: CueSolution, port: str, stage: str, sound: str | None, top: float, clip: float, levels: PortLevels
) -> Finding | None:
    by = top - clip
    if by <= -HOT_DB or (sound is None and by <= 0):
        return None
    unit = levels.unit((port, 1))
    remedy = _against(levels, port) if by > 0 else ""
    finding = Finding(
        id="clips" if by > 0 else "hot",
        severity="fault" if by >= SURELY_DB else "caution" if by > 0 else "note",
        step="levels",
        cue=view.cue_id,
        sound=sound,
        reason=f"Peaks come to {number(top)} {unit} there; it takes {number(clip)} {unit}.",
        evidence={"peak": round(top, 1), "clip": clip, "over_db": round(by, 1), "unit": unit, "stage": stage},
        ports=(port,),
        remedy=remedy,
    )
    return worded(view, finding, _clipping)


def _against(levels: PortLevels, port: str) -> str:
    view = levels.view
    gains = [s for s in stages_of(levels) if s.source[0] == port]
    lowest = all(float(view.show.value(s.control, view.cue_id)) <= (view.show.control(s.control).minimum or 0.0) + 1.0
                 for s in gains)  # fmt: skip
    if gains and lowest:
        return "The gain is as low as it goes: put a pad before it, or move the microphone away."
    return "Turn it down here, or before." if gains else "Turn it down before."


def _noisy(view: CueSolution, findings: Sequence[Finding]) -> str:
    return sentence(
        f"noise can be heard by {group(named(view.show.listener(f.listener)) for f in findings if f.listener)}"
    )


@kind("noisy", rank=89, gathered="all", together=_noisy)
def noisy(view: CueSolution) -> Iterable[Finding]:
    """Listeners to whom what they must hear comes too little over the noise; and where most of the distance is lost."""
    levels = levels_of(view)
    loudest: dict[Listener, tuple[float, str]] = {}
    for listener, sound, _ in wanted(view):
        if sound.kind in MADE_HERE and view.audible(listener, sound, HEARD_DB):
            loudest[listener] = max(loudest.get(listener, (SILENT, "")), (view.level(listener, sound), sound.id))
    for listener, (level, sound_id) in loudest.items():
        noise = _noise_at(levels, listener)
        least = QUIET_DB.get(listener.kind, QUIET_ELSEWHERE_DB)
        if noise == SILENT or level - noise >= least:
            continue
        lost = _where_lost(levels, listener.id, sound_id)
        finding = Finding(
            id="noisy",
            severity="caution",
            step="levels",
            cue=view.cue_id,
            listener=listener.id,
            reason=f"The loudest voice stands {db(level - noise)} over the noise; {db(least)} is clean."
            + (f" {db(lost[1])} of that are lost at {lost[0]}." if lost is not None else ""),
            evidence={"over_noise_db": round(level - noise, 1), "least_db": least},
            remedy="Give it more at its first gain, and less behind." if lost is not None else "",
        )
        yield worded(view, finding, _noisy)


def _noise_at(levels: PortLevels, listener: Listener) -> float:
    return max((levels.noise[f"listener/{listener.id}", ear] for ear in levels.ears(listener.id)), default=SILENT)


def _where_lost(levels: PortLevels, listener: str, sound_id: str) -> tuple[str, float] | None:
    """The stage on its strongest way at which a sound loses most of its distance from the noise, and how much."""
    view, graph = levels.view, levels.view.graph
    path = view.strongest_path(listener, sound_id)
    level = view.show.sound(sound_id).level
    known: list[tuple[str, float]] = []
    for edge in path.edges if path is not None else ():
        level += float(view.state.gain_db[edge])
        place = graph.nodes[int(graph.dst[edge])]
        if levels.noise[place] > SILENT and place[0] in view.show.ports:
            known.append((view.show.port_label(place[0]), level - levels.noise[place]))
    losses = [(b[0], a[1] - b[1]) for a, b in itertools.pairwise(known)]
    worst = max(losses, key=lambda x: x[1], default=("", 0.0))
    return worst if worst[1] >= LOST_DB else None


def _late(view: CueSolution, findings: Sequence[Finding]) -> str:
    _, sounds = names(view, findings)
    return sentence(f"{sounds.do('be')} turned up late: at {findings[0].evidence['late']}")


@kind("late-gain", rank=93, together=_late)
def late_gain(view: CueSolution) -> Iterable[Finding]:
    """Sounds whose first gain is far too low, and that are turned up behind it, with the noise in between."""
    levels = levels_of(view)
    stages = {(s.control, s.source): s for s in stages_of(levels)}
    told: set[tuple[str, str]] = set()
    for listener, sound, _ in wanted(view):
        path = view.strongest_path(listener.id, sound.id)
        first: tuple[str, float] | None = None
        later: list[tuple[str, float]] = []
        for edge in path.edges if path is not None else ():
            before = view.graph.nodes[int(view.graph.src[edge])]
            for use in view.graph.edges[edge].uses:
                control = view.show.control(use.control)
                stage = stages.get((use.control, before))
                if stage is not None and first is None and stage.clip_db is not None:
                    peak = levels.peaks.get(before, {}).get(sound.id, SILENT)
                    first = control.name, stage.clip_db - peak - stage.adds_db
                elif first is not None and control.kind == "level" and use.gains is None:
                    later.append((control.name, float(view.show.value(control.id, view.cue_id))))
        up = [x for x in later if x[1] > 0]
        given_back = sum(by for _, by in up)
        if first is None or first[1] < FAR_BELOW_DB or given_back < LATE_DB or (sound.id, first[0]) in told:
            continue
        told.add((sound.id, first[0]))
        finding = Finding(
            id="late-gain",
            severity="caution",
            step="levels",
            cue=view.cue_id,
            sound=sound.id,
            reason=f"Its peaks are {db(first[1])} under what {first[0]} takes, and {db(given_back)} are "
            "given back behind it: noise on the way is turned up with it.",
            evidence={"room_db": round(first[1], 1), "late": joined(name for name, _ in up)},
            remedy=f"Turn up {first[0]}, and the rest down by as much.",
        )
        yield worded(view, finding, _late)


def _off_goal(view: CueSolution, findings: Sequence[Finding]) -> str:
    louder = float(str(findings[0].evidence["away_lu"])) > 0
    who = joined(str(named(view.show.listener(f.listener))) for f in findings if f.listener)
    return sentence(f"the programme is too {'loud' if louder else 'soft'} for {who}")


@kind("loudness-off-goal", rank=90, gathered="all", together=_off_goal)
def loudness_off_goal(view: CueSolution) -> Iterable[Finding]:
    """Cues whose programme will be louder or softer than the show's goal, by the estimate."""
    if view.cue is not None and view.cue.is_before_air:
        return
    levels, goal = levels_of(view), view.show.goals.loudness_lufs
    for listener in view.show.listeners:
        spoken = any(s.kind in SPOKEN for x, s, _ in wanted(view) if x == listener)
        loudness = programme_lufs(levels, listener) if listener.kind == "audience" and spoken else None
        if loudness is None or abs(loudness - goal) <= GOAL_LU + ESTIMATE_LU:
            continue
        finding = Finding(
            id="loudness-off-goal",
            severity="caution",
            step="levels",
            cue=view.cue_id,
            listener=listener.id,
            reason=f"It comes to about {number(loudness)} LUFS ± {number(ESTIMATE_LU)}; the goal is {number(goal)}.",
            evidence={"lufs": round(loudness, 1), "goal_lufs": goal, "away_lu": round(loudness - goal, 1)},
        )
        yield worded(view, finding, _off_goal)


def _apart(view: CueSolution, findings: Sequence[Finding]) -> str:
    return findings[0].sentence


@kind("apart-on-one-gain", rank=91, together=_apart)
def apart_on_one_gain(view: CueSolution) -> Iterable[Finding]:
    """Inputs with one gain for two sounds that are both meant there and lie far apart."""
    levels = levels_of(view)
    meant = _meant(view)
    for stage in stages_of(levels):
        sounds = {
            s: top - view.show.sound(s).peak_over_typical_db
            for s, top in levels.peaks.get(stage.source, {}).items()
            if (s, stage.source[0]) in meant
        }
        if len(sounds) < 2:
            continue
        low, high = min(sounds, key=lambda s: sounds[s]), max(sounds, key=lambda s: sounds[s])
        apart = sounds[high] - sounds[low]
        if apart < APART_DB:
            continue
        a, b = (named(view.show.sound(s)) for s in (low, high))
        yield Finding(
            id="apart-on-one-gain",
            severity="caution",
            step="levels",
            cue=view.cue_id,
            sound=high,
            sentence=sentence(f"{a} and {b} lie {db(apart)} apart on {view.show.control(stage.control).name}"),
            reason=f"What is right for the one is {'too much' if apart > 0 else 'too little'} for the other.",
            evidence={"apart_db": round(apart, 1)},
            ports=(stage.source[0],),
            remedy="Set the gain for the loud one and turn up the soft one by cue; or a microphone of its own, a "
            "limiter, or another distance.",
        )


def _meant(view: CueSolution) -> set[tuple[str, str]]:
    """Which sounds are meant at which sockets: on the strongest way to somebody who must hear them."""
    found = set()
    for listener, sound, _ in wanted(view):
        path = view.strongest_path(listener.id, sound.id)
        for edge in path.edges if path is not None else ():
            found.add((sound.id, view.graph.nodes[int(view.graph.src[edge])][0]))
    return found


def _far(view: CueSolution, findings: Sequence[Finding]) -> str:
    _, sounds = names(view, findings)
    return sentence(f"the room is louder than {sounds} at {findings[0].evidence['microphone']}")


@kind("microphone-far", rank=92, together=_far)
def microphone_far(view: CueSolution) -> Iterable[Finding]:
    """Voices whose only microphone is farther away than the room allows."""
    show = view.show
    told = set()
    for listener, sound, _ in wanted(view):
        path = view.strongest_path(listener.id, sound.id) if sound.kind == "voice" else None
        first = int(path.edges[0]) if path is not None and path.edges else None
        if first is None or (sound.id, first) in told:
            continue
        port = view.graph.nodes[int(view.graph.dst[first])][0]
        cable = next((c for c in show.cables_to.get(port, ()) if c.source == f"sound/{sound.id}"), None)
        if cable is None or cable.length_m <= CRITICAL_M * AIMED or port not in show.ports:
            continue
        told.add((sound.id, first))
        finding = Finding(
            id="microphone-far",
            severity="caution",
            step="levels",
            cue=view.cue_id,
            sound=sound.id,
            reason=f"It is {cable.length_m:g} m away; in a small furnished room (assumed) the room is louder "
            f"beyond about {CRITICAL_M * AIMED:g} m.",
            evidence={"distance_m": cable.length_m, "microphone": the_port(show, port)},
            ports=(port,),
            remedy="Go nearer, or use a microphone that is worn.",
        )
        yield worded(view, finding, _far)


def _too_loud(view: CueSolution, findings: Sequence[Finding]) -> str:
    who = joined(str(named(view.show.listener(f.listener))) for f in findings if f.listener)
    return sentence(f"it may be too loud for the ears of {who}")


@kind("monitors-loud", rank=2, gathered="all", together=_too_loud)
def monitors_loud(view: CueSolution) -> Iterable[Finding]:
    """Ears that get more than is recommended for the time of a cue."""
    cue = view.cue
    minutes = cue.minutes if cue is not None and cue.minutes else LOUD_MINUTES
    for listener in view.show.listeners:
        if listener.unit != "dB SPL":
            continue
        level = power_sum([view.level(listener, s) for s in view.show.sounds if not view.is_own(listener, s)])
        allowed = allowed_minutes(level) if level > SILENT else DAY_MIN
        if allowed >= minutes:
            continue
        finding = Finding(
            id="monitors-loud",
            severity="caution",
            step="levels",
            cue=view.cue_id,
            listener=listener.id,
            reason=f"About {number(level)} dB SPL for {number(minutes)} min; {number(allowed, 1)} min a day are "
            f"recommended at most (NIOSH REL: 85 dBA for 8 h, 3 dB exchange). Measure it, and turn it down.",
            evidence={"level": round(level, 1), "minutes": minutes, "allowed_min": round(allowed, 1)},
        )
        yield worded(view, finding, _too_loud)
