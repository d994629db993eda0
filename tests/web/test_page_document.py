"""What the page is told: all that a clip is, and every detail only of what can be looked at closely."""

from __future__ import annotations

import pytest

from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import InvalidValue
from jaylantern.web.page_document import in_view

TWENTY_MINUTES_N = 1200 * RATE


@pytest.mark.parametrize(
    ("asked", "expected"),
    [
        ("", None),
        ("from_n=0&to_n=100", (0, 100)),
        ("from_n=500&to_n=500", None),  # nothing is in view
        ("from_n=500&to_n=400", None),
        (f"from_n=48000&to_n={48000 + TWENTY_MINUTES_N}", (48000, 48000 + TWENTY_MINUTES_N)),
        (f"from_n=48000&to_n={48000 + TWENTY_MINUTES_N + 1}", None),  # longer: an outline is enough
    ],
)
def test_up_to_twenty_minutes_are_shown_in_every_detail(app, asked, expected):
    with app.test_request_context(f"/?{asked}"):
        assert in_view() == expected


@pytest.mark.parametrize("asked", ["from_n=-1&to_n=5", "from_n=0&to_n=x", "from_n=0"])
def test_a_view_that_is_none_is_refused(app, asked):
    with app.test_request_context(f"/?{asked}"), pytest.raises(InvalidValue, match="from 0 to 24 hours"):
        in_view()
