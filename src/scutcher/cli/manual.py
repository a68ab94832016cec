"""The man page and the completions of shells, made from the parser: what it knows is what they tell."""

from __future__ import annotations

import argparse
from collections.abc import Iterator

from scutcher import __version__
from scutcher.core.frozen import frozen


@frozen
class Command:
    """A command as it is told of: its name, what it does, its options and the values that they may have."""

    name: str
    help: str
    usage: str
    options: tuple[argparse.Action, ...]


def commands_of(parser: argparse.ArgumentParser) -> tuple[Command, ...]:
    """Every command of the parser, in the order of the help."""
    found = []
    for action in parser._actions:
        if isinstance(action, argparse._SubParsersAction):
            helps = {choice.dest: choice.help or "" for choice in action._choices_actions}
            for name, own in action.choices.items():
                usage = " ".join(own.format_usage().removeprefix("usage: ").split())
                found.append(Command(name, helps.get(name, ""), usage, tuple(own._actions)))
    return tuple(found)


def man_page(parser: argparse.ArgumentParser) -> str:
    """`scutcher.1` in roff."""
    lines = [
        f'.TH SCUTCHER 1 "" "scutcher {__version__}" "User Commands"',
        ".SH NAME",
        "scutcher \\- treat, model and inspect stacked spectra and instrument signals",
        ".SH SYNOPSIS",
        ".B scutcher",
        "[\\fICOMMAND\\fR] [\\fIOPTIONS\\fR]",
        ".SH DESCRIPTION",
        _roff(parser.description or ""),
        "Without a command the window opens.",
        ".SH COMMANDS",
    ]
    for command in commands_of(parser):
        lines += [".SS " + _roff(command.name), _roff(command.help) + ".", ".PP", _roff(command.usage)]
        for option in command.options:
            if option.dest != "help":
                told = ", ".join(option.option_strings) or str(option.metavar or option.dest)
                value = "" if not option.option_strings or option.nargs == 0 else f" {_value(option)}"
                lines += [".TP", f"\\fB{_roff(told)}\\fR{_roff(value)}", _roff(option.help or " ")]
    lines += [
        ".SH EXIT STATUS",
        "0 done; 1 the data or the recipe cannot be used (one line says why); 2 a wrong call.",
    ]
    return "\n".join(lines) + "\n"


def _value(option: argparse.Action) -> str:
    if option.choices is not None:
        return "{" + ",".join(map(str, option.choices)) + "}"
    return str(option.metavar or option.dest.upper())


def _roff(words: str) -> str:
    """Words that no macro is made of."""
    safe = words.replace("\\", "\\e").replace("-", "\\-")
    return f"\\&{safe}" if safe[:1] in (".", "'") else safe


def _long(command: Command) -> Iterator[argparse.Action]:
    return (option for option in command.options if option.option_strings)


def bash_completion(parser: argparse.ArgumentParser) -> str:
    """For bash: commands, then the options of each, then the choices of an option; else files."""
    commands = commands_of(parser)
    cases, choices = [], []
    for command in commands:
        options = " ".join(name for option in _long(command) for name in option.option_strings)
        cases.append(f'        {command.name}) words="{options}" ;;')
        for option in _long(command):
            if option.choices is not None:
                names = "|".join(f"{command.name}:{name}" for name in option.option_strings)
                choices.append(f'        {names}) words="{" ".join(map(str, option.choices))}" ;;')
    names = " ".join(command.name for command in commands)
    return f"""# bash completion of scutcher {__version__}
_scutcher() {{
    local here=${{COMP_WORDS[COMP_CWORD]}} before=${{COMP_WORDS[COMP_CWORD-1]}}
    local command=${{COMP_WORDS[1]}} words=""
    if [ "$COMP_CWORD" -eq 1 ]; then
        COMPREPLY=($(compgen -W "{names} --version --help" -- "$here")); return
    fi
    case "$command:$before" in
{chr(10).join(choices)}
    esac
    if [ -n "$words" ]; then COMPREPLY=($(compgen -W "$words" -- "$here")); return; fi
    case "$command" in
{chr(10).join(cases)}
    esac
    case "$here" in
        -*) COMPREPLY=($(compgen -W "$words" -- "$here")) ;;
        *) COMPREPLY=($(compgen -f -- "$here")) ;;
    esac
}}
complete -o filenames -F _scutcher scutcher
"""


def fish_completion(parser: argparse.ArgumentParser) -> str:
    """For fish, with what each command and option is for."""
    lines = [f"# fish completion of scutcher {__version__}"]
    for command in commands_of(parser):
        about = _quoted(command.help)
        lines.append(f"complete -c scutcher -n __fish_use_subcommand -a {command.name} -d {about}")
        seen = f"'__fish_seen_subcommand_from {command.name}'"
        for option in _long(command):
            flags = " ".join(map(_fish_flag, option.option_strings))
            values = "" if option.choices is None else _quoted(" ".join(map(str, option.choices)))
            told = f" -d {_quoted(option.help)}" if option.help else ""
            lines.append(f"complete -c scutcher -n {seen} {flags}{f' -xa {values}' if values else ''}{told}")
    return "\n".join(lines) + "\n"


def _fish_flag(name: str) -> str:
    return f"-l {name[2:]}" if name.startswith("--") else f"-s {name[1:]}"


def _quoted(words: str) -> str:
    return "'" + words.replace("\\", "\\\\").replace("'", "\\'") + "'"
