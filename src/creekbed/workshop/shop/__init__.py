"""The shop itself: its records, clock, staff, hours, house rules, own values, and what keeps them safe."""
