"""The words of the command line. Nothing that computes is loaded for them."""

import argparse
from pathlib import Path
from typing import Any, NoReturn

from kymaton import __version__
from kymaton.cli.common import Usage
from kymaton.sim import STAND_INS


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        raise Usage(f"{message}. `{self.prog} --help` lists what can be asked.")


def parser() -> argparse.ArgumentParser:
    """All commands and what they take; `run` names the function that does it, in a module of this package."""
    made = _Parser(prog="kymaton", description="What every listener of a live stream will really hear.")
    made.add_argument("--version", action="version", version=f"Kymaton {__version__}")
    made.set_defaults(run="window:open_show", show=None)
    commands = made.add_subparsers(metavar="COMMAND")

    def command(name: str, run: str, text: str, show: bool = True, needed: bool = True) -> argparse.ArgumentParser:
        sub = commands.add_parser(name, help=text, description=text)
        if show:
            many = None if needed else "?"
            sub.add_argument("show", type=Path, metavar="SHOW", nargs=many, help="a .kymaton file")
        sub.set_defaults(run=run)
        return sub

    command("open", "window:open_show", "open the window on a show, or on the start page", needed=False)
    command("demo", "window:demo", "open the window on the demo show", show=False)
    check = command("check", "shows:check", "findings; exit 1 when there are faults")
    hear = command("hear", "shows:hear", "arrivals at listeners")
    plan = command("plan", "shows:plan", "the fewest settings that end all faults, and ways out where none do")
    levels = command("levels", "levels:levels", "levels at every stage of every sound, and the gains to set")
    levels.add_argument("--sound", help="id of a sound")
    levels.add_argument("--gains", action="store_true", help="what to set so that nothing clips or hisses")
    budget = command(
        "budget", "budget:budget", "uplink, USB, computers, power, network; exit 1 when something does not fit",
        needed=False,
    )  # fmt: skip
    budget.add_argument(
        "--measure", action="store_true", help="how fast this computer encodes, by its own test picture"
    )
    budget.add_argument("--trace", help="an uplink over time: '20 s 8 Mbit/s, 10 s 2 Mbit/s', a file of it, dip, "
                        "evening or mobile")  # fmt: skip
    budget.add_argument(
        "--store", type=float, default=6.0, metavar="S", help="what viewers have in store (default 6 s)"
    )
    loadin = command(
        "loadin", "loadin:loadin", "the sheets of a load-in; exit 1 when ticks say that something is missing"
    )
    loadin.add_argument("-o", "--out", type=Path, help="a .pdf, .csv or .html file to write, or a changed show")
    loadin.add_argument("--only", metavar="SHEET", help="one sheet: buy, packing, order, cables, inputs, patch …")
    loadin.add_argument("--hands", type=int, default=2, metavar="N", help="how many people work (default 2)")
    loadin.add_argument("--labels", metavar="WxH", help="labels for both ends of every lead, in mm: 60x24")
    loadin.add_argument("--ticks", type=Path, metavar="FILE", help="read back what was ticked on the page")
    loadin.add_argument("--missing", action="store_true", help="the cheapest adequate way for what is to be bought")
    loadin.add_argument("--without", metavar="DEVICE", help="how to go on when a device did not come or is dead")
    even = command(
        "even", "shows:even", "sends with which a listener, or each, hears voices equally loud, and music below"
    )
    even.add_argument("--music-under", type=float, default=6.0, metavar="DB", help="how far below (default 6)")
    off = command("off-air", "shows:off_air", "add a cue to talk off air: green-room, countdown or talkback")
    off.add_argument("what", choices=("green-room", "countdown", "talkback"))
    off.add_argument("--to", action="append", default=[], metavar="LISTENER", help="to whom (countdown: host, guest)")
    off.add_argument("-o", "--out", type=Path, required=True, help="the .kymaton file to write")
    private = command("private", "privacy:private", "by how few presses something private gets out; exit 1 when it is")
    ask = command("ask", "asking:ask", "an answer to a question: who hears Quill, why does Ilse hear herself")
    ask.add_argument("question", nargs="+", metavar="QUESTION", help="the question, in words")
    beside = command("compare", "asking:compare", "what differs between two cues, two variants, or two shows")
    beside.add_argument("other", type=Path, metavar="OTHER", nargs="?", help="another .kymaton file")
    beside.add_argument("--with", dest="beside", metavar="CUE", help="id of another cue")
    beside.add_argument("--variant", help="id of a variant of the rig")
    render = command("render", "shows:render", "write what a listener hears in a cue")
    lines = command("lines", "lines:lines", "the lines that make a show: to read, to compare, to keep")
    lines.add_argument("-o", "--out", type=Path, help="the text file to write (otherwise they are printed)")
    build = command("build", "lines:build", "a show from a text file of lines", show=False)
    build.add_argument("lines", type=Path, metavar="LINES", help="a text file, a line of the map or the brief in each")
    build.add_argument("-o", "--out", type=Path, required=True, help="the .kymaton file to write")
    command("schema", "shows:schema", "JSON Schema of the show file", show=False)
    _sync(commands)
    _embed(commands)
    _sounds(commands)
    _simulations(commands)
    for sub in (check, hear, levels, even, off, ask, beside, render):
        sub.add_argument("--cue", help="id of a cue", required=sub is render)
    for sub in (hear, levels, even, render):
        sub.add_argument("--listener", help="id of a listener", required=sub is render)
    for sub in (check, hear, plan, levels, budget, loadin, even, private, ask, beside, render):
        sub.add_argument("--json", action="store_true", help="print JSON")
    for sub in (plan, levels, even):
        sub.add_argument("--apply", action="store_true", help="write the show with the proposal applied")
        sub.add_argument("-o", "--out", type=Path, help="the file to write")
    render.add_argument("-o", "--out", type=Path, required=True, help="the .wav or .flac file to write")
    render.add_argument("--sound", action="append", default=[], help="only this sound (may be given several times)")
    return made


def _sync(commands: Any) -> None:
    """`kymaton sync …`: clips, measurements and the delays to enter."""
    text = "sound against picture: clips, measurements, the delays to enter"
    parts = commands.add_parser("sync", help=text, description=text).add_subparsers(metavar="WHAT", required=True)
    solve = parts.add_parser("solve", help="the delays to enter", description="The delays to enter, and what remains.")
    solve.add_argument("show", type=Path, metavar="SHOW", help="a .kymaton file")
    solve.add_argument("--per-cue", action="store_true", help="a value of its own in each cue")
    solve.add_argument("--every-camera", action="store_true", help="not only what is on air in each cue")
    solve.add_argument("--json", action="store_true", help="print JSON")
    solve.set_defaults(run="films:solve")
    clip = parts.add_parser("clip", help="make a flash-and-beep clip", description="Make a flash-and-beep clip.")
    clip.add_argument("-o", "--out", type=Path, required=True, help="the .mp4, .mov or .mkv file to write")
    clip.add_argument("--fps", default="30", help="frames a second: 25, 29.97, 30000/1001 (default 30)")
    clip.add_argument("--seconds", type=float, default=20.0, help="how long (default 20)")
    clip.add_argument("--size", default="1280x720", help="width x height (default 1280x720)")
    clip.add_argument("--lead-ms", type=float, default=0.0, help="beeps earlier than their flashes by this")
    clip.set_defaults(run="films:clip")
    text = "the lead of a recorded clip"
    measured = parts.add_parser("measure", help=text, description=f"Measure {text}.")
    measured.add_argument("clip", type=Path, metavar="CLIP", help="a file with picture and sound")
    measured.add_argument("--claps", action="store_true", help="claps or clicks, not the beeps of a sync clip")
    measured.add_argument("--made", action="store_true", help="made, not filmed: flashes begin with their frames")
    measured.add_argument("--json", action="store_true", help="print JSON")
    measured.set_defaults(run="films:measure")
    text = "how much later the sound of one recording comes in another"
    aligned = parts.add_parser("align", help=text, description=f"Find {text}.")
    aligned.add_argument("reference", type=Path, metavar="REFERENCE", help="a file with sound")
    text = (
        "another file with the same sound; without it, the right side of REFERENCE against its left (send and return)"
    )
    aligned.add_argument("other", type=Path, metavar="OTHER", nargs="?", help=text)
    aligned.add_argument("--json", action="store_true", help="print JSON")
    aligned.set_defaults(run="films:align")


def _embed(commands: Any) -> None:
    text = "put a recorded sound into a film, the picture copied bit for bit"
    columns = (
        "Columns of a list (comma or semicolon, in any order): picture, sound, out; and where wanted offset_ms (else "
        "it is found), drift_ppm, gain_db, loudness_lufs, name, language, codec, original (yes), shorter (yes). "
        "All files lie in the folder of the list or below it."
    )
    embed = commands.add_parser("embed", help=text, description=text, epilog=columns)
    embed.add_argument("picture", type=Path, metavar="PICTURE", nargs="?", help="a file with picture")
    embed.add_argument(
        "sound", type=Path, metavar="SOUND", nargs="?", help="its sound; the film itself to shift its own"
    )
    embed.add_argument("-o", "--out", type=Path, help="the .mp4, .mov, .mkv or .webm file to write")
    embed.add_argument("--also", type=Path, action="append", default=[], help="one more sound, as a track of its own")
    embed.add_argument(
        "--list", type=Path, help="many films: a CSV file with picture, sound, out and what else is wanted"
    )
    how = embed.add_mutually_exclusive_group()
    how.add_argument("--offset-ms", type=float, help="how much later the sound comes in SOUND than in PICTURE")
    how.add_argument("--auto", action="store_true", help="find offset and drift by the film's own sound (the default)")
    embed.add_argument("--drift-ppm", type=float, default=0.0, help="how much that grows, with --offset-ms")
    embed.add_argument("--codec", default="keep", choices=("keep", "aac", "flac", "pcm", "opus"), help="of the sound")
    embed.add_argument("--keep-original", action="store_true", help="keep the film's own sound as a second track")
    embed.add_argument("--shorter", action="store_true", help="end the film where the shortest sound ends")
    embed.add_argument("--seconds", type=float, help="only the beginning, to look at it first")
    embed.add_argument("--name", default="", help="name of the new track")
    embed.add_argument("--language", default="", help="language of the new track: eng, deu")
    embed.add_argument("--gain-db", type=float, default=0.0, help="level of the new track")
    embed.add_argument(
        "--loudness", type=float, metavar="LUFS", help="bring the sound to this loudness, by a gain alone"
    )
    embed.add_argument(
        "--true-peak", type=float, default=-1.0, metavar="DBTP", help="which it must not exceed then (-1)"
    )
    embed.add_argument("--swap", action="store_true", help="exchange left and right")
    embed.add_argument("--json", action="store_true", help="print JSON")
    embed.set_defaults(run="films:embed")


def _sounds(commands: Any) -> None:
    text = "the sound of a film as a file of its own"
    parser = commands.add_parser("extract", help=text, description=text)
    parser.add_argument("film", type=Path, metavar="FILM", help="a file with sound")
    parser.add_argument("-o", "--out", type=Path, required=True, help="the .wav or .flac file to write")
    parser.add_argument(
        "--offset-ms", type=float, default=0.0, help="cut so much off its beginning (< 0: silence first)"
    )
    parser.add_argument("--swap", action="store_true", help="exchange left and right")
    parser.set_defaults(run="films:extract")
    text = "loudness of recordings (ITU-R BS.1770-5, EBU Tech 3341 and 3342), and what is wrong with them"
    parser = commands.add_parser("loudness", help=text, description=text)
    parser.add_argument("file", type=Path, nargs="+", metavar="FILE", help="a file with sound")
    parser.add_argument("--goal", type=float, metavar="LUFS", help="hold it against this loudness; exit 1 when missed")
    parser.add_argument("--csv", type=Path, metavar="OUT", help="write a table, a line for each track")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.set_defaults(run="bench:loudness")


def _simulations(commands: Any) -> None:
    """The words of `kymaton sim`."""
    text = "simulated devices, to try things without hardware"
    parts = commands.add_parser("sim", help=text, description=text).add_subparsers(metavar="DEVICE", required=True)
    for stand_in in STAND_INS:
        part = parts.add_parser(stand_in.name, help=stand_in.about, description=stand_in.about)
        part.add_argument("-o", "--out", type=Path, required=True, help=stand_in.out)
        for name, value, meaning in stand_in.words:
            said = f"{value:g}" if isinstance(value, float) else value
            flag = f"--{name.replace('_', '-')}"
            part.add_argument(flag, type=type(value), default=value, help=f"{meaning} (default {said})")
        part.set_defaults(run="simulations:run", stand_in=stand_in.name)
