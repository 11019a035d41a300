"""Settings, the demo from inside the app, and the round through it."""
