"""Speed and memory as ratios measured side by side in one run: `./jay bench`. Nothing here is a test."""
