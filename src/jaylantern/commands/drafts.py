"""Commands on the two drafts: hold the present one, go on as the other, choose one of them."""

from __future__ import annotations

from jaylantern.commands.command import Command, NewId, Param
from jaylantern.core.edit import drafts
from jaylantern.core.timeline.held_draft import Letter
from jaylantern.core.timeline.kinds import Choice
from jaylantern.core.timeline.project import Project

Answer = tuple[str, Project]


def _hold_draft(project: Project, new_id: NewId) -> Answer:
    after = drafts.hold(project)
    return f"Hold draft {drafts.present(after).other}, go on as {drafts.present(after)}", after


def _swap_drafts(project: Project, new_id: NewId) -> Answer:
    after = drafts.swap(project)
    return f"Go on as draft {drafts.present(after)}", after


def _choose_draft(project: Project, new_id: NewId, *, letter: Letter) -> Answer:
    return f"Draft {letter} is the one", drafts.choose(project, letter=letter)


COMMANDS = (
    Command("hold_draft", _hold_draft),
    Command("swap_drafts", _swap_drafts),
    Command("choose_draft", _choose_draft, letter=Param(Choice(Letter), called="The draft")),
)
