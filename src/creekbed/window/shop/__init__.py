"""House rules, capacity and hours, devices."""
