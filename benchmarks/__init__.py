"""Speed and memory as ratios measured side by side in one run: `./jay bench`. Nothing here is a test."""

import jaylantern  # noqa: F401 – first, as it says how numpy is to work
