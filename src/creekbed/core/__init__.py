"""Pure computation and knowledge of the trade: no screen, no disk, no network, no clock of its own."""
