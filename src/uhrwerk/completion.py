"""Completion scripts for shells, made from the command line's own parser."""

from __future__ import annotations

import argparse
from collections.abc import Mapping

SHELLS = ("bash", "zsh", "fish")


def options(parser: argparse.ArgumentParser) -> list[str]:
    """The long options of a parser."""
    return sorted({s for line in parser.format_usage().split() for s in [line.strip("[]|()")] if s.startswith("--")})


def script(shell: str, commands: Mapping[str, argparse.ArgumentParser]) -> str:
    """The script that a shell sources. `commands` are the parsers by name."""
    own = {name: " ".join(options(parser)) for name, parser in commands.items()}
    names = " ".join(own)
    if shell == "fish":
        lines = [
            "complete -c uhrwerk -n __fish_use_subcommand -f -a " + repr(names),
            *(
                f"complete -c uhrwerk -n '__fish_seen_subcommand_from {name}' -l {option.removeprefix('--')}"
                for name, listed in own.items()
                for option in listed.split()
            ),
        ]
        return "\n".join(lines) + "\n"
    cases = "\n".join(f'    {name}) words="{listed}" ;;' for name, listed in own.items())
    bash = f"""_uhrwerk() {{
  local words
  case "${{COMP_WORDS[1]}}" in
{cases}
    *) words="{names} --version --help" ;;
  esac
  [ "$COMP_CWORD" = 1 ] && words="{names} --version --help"
  COMPREPLY=($(compgen -W "$words" -- "${{COMP_WORDS[COMP_CWORD]}}"))
  [ "$COMP_CWORD" -gt 1 ] && COMPREPLY+=($(compgen -f -- "${{COMP_WORDS[COMP_CWORD]}}"))
}}
complete -o filenames -F _uhrwerk uhrwerk
"""
    return "autoload -U +X bashcompinit && bashcompinit\n" + bash if shell == "zsh" else bash
