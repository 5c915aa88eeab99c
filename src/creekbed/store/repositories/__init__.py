"""Questions that need more than a key: one class for each area, all returning frozen records or plain values."""
