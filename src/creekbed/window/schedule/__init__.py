"""The day and the week as a picture of the plan."""
