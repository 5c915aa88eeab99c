"""Our own vector drawings of every family: areas with names, in the house style."""
