"""The computation. Pure: no files, clock, network, interface or storage code."""
