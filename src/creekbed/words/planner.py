"""What is said of the planner: that it looks for a better plan, or why it cannot."""

from __future__ import annotations

UNAVAILABLE = {
    "crash": "Better plans are not being looked for just now: the planner has ended. It starts again soon.",
    "hang": "Better plans are not being looked for just now: the planner did not answer. It starts again soon.",
    "memory": "Better plans are not being looked for just now: the planner took too much memory. It starts again soon.",
    "start": "Better plans are not being looked for just now: the planner cannot be started. It is tried again soon.",
    "fault": "Better plans are not being looked for: looking made a mistake. The plan holds.",
}
"""Why there is no planner → the words."""
LOOKING = "Looking for a better plan …"
SAFE, TODO = "The plan on show holds.", "Ask again in a moment."
