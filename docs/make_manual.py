"""Writes docs/commands.md, the man page and the completion of the shell, from the command line as it is."""

import argparse
import sys
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
PAGE = ROOT / "docs" / "commands.md"
MANUAL = ROOT / "packaging" / "kymaton.1"
COMPLETION = ROOT / "packaging" / "kymaton.bash"
COMPLETION_ZSH = ROOT / "packaging" / "_kymaton"

from kymaton import __version__
from kymaton.cli.parser import parser

EXIT = (
    "Exit code 0: done, and no faults; 1: the show has faults; 2: it could not be done, with one line on standard "
    "error and no file left behind; 3: a mistake in Kymaton; 130: stopped by Ctrl+C (128 + the number of a signal); "
    "141: what read the output is gone."
)


def commands(of: argparse.ArgumentParser, said: str = "kymaton") -> Iterator[tuple[str, str, argparse.ArgumentParser]]:
    """Every command with its words, what it does, and its parser."""
    for action in of._actions:
        if isinstance(action, argparse._SubParsersAction):
            about = {choice.dest: choice.help or "" for choice in action._choices_actions}
            for name, sub in action.choices.items():
                inner = list(commands(sub, f"{said} {name}"))
                if inner:
                    yield from inner
                else:
                    yield f"{said} {name}", about.get(name, sub.description or ""), sub


def options(of: argparse.ArgumentParser) -> Iterator[tuple[str, str]]:
    """What a command takes, and what each of it means."""
    for action in of._actions:
        if isinstance(action, argparse._HelpAction | argparse._SubParsersAction):
            continue
        name = ", ".join(action.option_strings) or str(action.metavar or action.dest.upper())
        if action.option_strings and action.nargs != 0:
            name += f" {action.metavar or action.dest.upper()}"
        yield name, (action.help or "").replace("%%", "%")


def page() -> str:
    lines = ["# The command line", "", "Written by `make pages` from the program.", "", EXIT, ""]
    for said, about, sub in commands(parser()):
        usage = " ".join(sub.format_usage().removeprefix("usage: ").split())
        lines += [f"## {said}", "", f"{about[:1].upper()}{about[1:]}.".replace("..", "."), "", f"    {usage}", ""]
        lines += [f"- `{name}`: {text}" for name, text in options(sub)]
        lines.append("")
    return "\n".join(lines).replace("\n\n\n", "\n\n").rstrip() + "\n"


def _troff(text: str) -> str:
    text = text.replace("\\", "\\e").replace("-", "\\-")
    return f"\\&{text}" if text.startswith((".", "'")) else text


def manual() -> str:
    lines = [f'.TH KYMATON 1 "" "Kymaton {__version__}" "User commands"', ".SH NAME"]
    lines += [r"kymaton \- what every listener of a live stream will really hear", ".SH SYNOPSIS"]
    lines += [".B kymaton", "[COMMAND] [SHOW] [options]", ".SH DESCRIPTION"]
    lines += ["Without a command the window opens.", _troff(EXIT), ".SH COMMANDS"]
    for said, about, sub in commands(parser()):
        lines += [".SS " + _troff(said), _troff(about)]
        for name, text in options(sub):
            lines += [".TP", r"\fB" + _troff(name) + r"\fR", _troff(text) or r"\&"]
    return "\n".join(lines) + "\n"


def completion() -> str:
    """Words for bash: commands, then the options of the command that was typed, then files."""
    known = list(commands(parser()))
    cases = []
    for said, _, sub in known:
        words = [o for a in sub._actions for o in a.option_strings if o.startswith("--")]
        cases.append(f'    "{said.removeprefix("kymaton ")}"*) words="{" ".join(words)}" ;;')
    first = sorted({said.split()[1] for said, _, _ in known})
    second: dict[str, list[str]] = {}
    for said, _, _ in known:
        if len(said.split()) > 2:
            second.setdefault(said.split()[1], []).append(said.split()[2])
    inner = [f'    {name}) words="{" ".join(words)}" ;;' for name, words in second.items()]
    return "\n".join(
        [
            "# Completion of kymaton for bash. Written by `make pages`.",
            "_kymaton() {",
            '  local now="${COMP_WORDS[COMP_CWORD]}" said="${COMP_WORDS[*]:1:COMP_CWORD-1}" words=""',
            f'  if [ "$COMP_CWORD" -eq 1 ]; then words="{" ".join(first)}"',
            '  elif [[ "$now" == -* ]]; then case "$said" in',
            *cases,
            "  esac",
            '  elif [ "$COMP_CWORD" -eq 2 ]; then case "${COMP_WORDS[1]}" in',
            *inner,
            "  esac; fi",
            '  COMPREPLY=($(compgen -W "$words" -- "$now"))',
            '  [ -n "$words" ] || COMPREPLY=($(compgen -f -- "$now"))',
            "}",
            "complete -o filenames -F _kymaton kymaton",
            "",
        ]
    )


def completion_zsh() -> str:
    """The same words for zsh, each option with what it means."""
    lines = ["#compdef kymaton", "# Completion of kymaton for zsh. Written by `make pages`.", "_kymaton() {"]
    lines += [
        '  local said="${words[2]}" more="${words[3]}"',
        "  local -a found",
        "  if (( CURRENT == 2 )); then",
        "    found=(",
    ]
    firsts: dict[str, str] = {}
    seconds: dict[str, list[str]] = {}
    for said, about, _ in commands(parser()):
        _, first, *rest = said.split()
        firsts.setdefault(first, about if not rest else f"{first} …")
        seconds.setdefault(first, []).extend(rest[:1])
    lines += [f"      {_zsh(f'{name}:{about}')}" for name, about in firsts.items()]
    lines += ["    )", "    _describe command found && return", "  fi"]
    for first, names in seconds.items():
        if names:
            lines.append(
                f"  if (( CURRENT == 3 )) && [[ $said == {first} ]]; then compadd {' '.join(names)}; return; fi"
            )
    lines.append('  case "$said $more" in')
    for said, _, sub in commands(parser()):
        offered = [
            _zsh(
                f"{option}[{(action.help or 'show this help').replace('%%', '%').replace('[', '(').replace(']', ')')}]"
            )
            for action in sub._actions
            for option in action.option_strings
            if option.startswith("--")
        ]
        pattern = said.removeprefix("kymaton ")
        lines.append(f'    {_zsh(pattern)}*) _arguments {" ".join(offered)} "*:file:_files" ;;')
    return "\n".join([*lines, "  esac", "}", '_kymaton "$@"', ""])


def _zsh(text: str) -> str:
    return "'" + text.replace("'", "'\\''") + "'"


if __name__ == "__main__":
    written = {PAGE: page(), MANUAL: manual(), COMPLETION: completion(), COMPLETION_ZSH: completion_zsh()}
    if sys.argv[1:] == ["--check"]:
        stale = [p.name for p, text in written.items() if p.read_text("utf-8") != text]
        sys.exit(f"not as the program is: {', '.join(stale)}; run make pages" if stale else 0)
    for path, text in written.items():
        path.write_text(text, "utf-8")
