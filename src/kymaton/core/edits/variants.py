"""A rig in one of its variants: the show with what the variant changes, as a show of its own."""

from kymaton.core.edits.cables import without_cables
from kymaton.core.edits.controls import Change, apply
from kymaton.core.edits.devices import remove_device
from kymaton.core.model import Show, Variant


def in_variant(show: Show, variant: Variant) -> Show:
    """The rig as it is in a variant; it has no variants and no other ways itself."""
    rig = show.evolve(variants=(), alternatives=())
    for device in variant.without:
        rig = remove_device(rig, device)
    left = {c.id for c in rig.cables}
    cables = tuple(c.evolve(plugged=False) if c.id in variant.unplugged else c for c in rig.cables)
    new = tuple(c for c in variant.cables if c.id not in left)
    rig = without_cables(rig.evolve(devices=(*rig.devices, *variant.devices), cables=(*cables, *new)), set())
    known = {c.id for c in rig.controls()}
    changes = [Change(None, c, rig.control(c).value, v) for c, v in variant.controls.items() if c in known]
    changes += [
        Change(cue.id, c, rig.value(c, cue.id), value)
        for cue in rig.cues
        for c, value in variant.in_cues.get(cue.id, {}).items()
        if c in known
    ]
    return apply(rig, changes)


def same_rig(variant: Variant) -> bool:
    """Whether a variant changes settings and takes leads away, and no device or lead is another."""
    return not (variant.without or variant.devices or variant.cables)
