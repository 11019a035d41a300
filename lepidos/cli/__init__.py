"""The command line: run the app, look after the data file, and the core's models for scripts."""
