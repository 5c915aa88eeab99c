"""Marram Hire, the invented shop of the demo. All names of people, groups, islands and boats are made up."""
