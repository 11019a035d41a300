"""How the app and its machine are: the data file, its copies, the clock and the devices."""
