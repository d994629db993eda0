"""Everything that can be done to a project: `command.py` says what a command is, `registry.py` lists them,
`carry_out.py` does one. A file for each noun."""

from jaylantern.commands.carry_out import Done, carry_out, do
from jaylantern.commands.provider import Provider
from jaylantern.commands.registry import COMMANDS

__all__ = ["COMMANDS", "Done", "Provider", "carry_out", "do"]
