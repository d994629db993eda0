"""From a plan to samples, and what they measure."""
