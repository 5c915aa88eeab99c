"""The bench plan: its input, the planner worker, sharing, explanations, remedies."""
