"""Who is aboard: devices that are let in, what they may do, and what they did."""
