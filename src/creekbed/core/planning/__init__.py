"""The bench plan: problem, plan, the rule that makes one, its reasons in words."""
