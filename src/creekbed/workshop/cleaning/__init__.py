"""Baths, cloths, reeds, drying, hand washing, products, and the state of every part."""
