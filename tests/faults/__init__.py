"""Failed writes, kills, full disks: what was acknowledged is there, or its absence is told, and the way back works."""
