"""The window: Qt Widgets that draw the workshop's read models and forward intentions."""
