"""The fleet: where every instrument is, who has it, hiring out, resting and retiring."""
