"""The JSON API, a file a station: the same path as the pages, for scripts."""

from lepidos.web.api import app, deck, freezer, guide, pack, schedule, table, trips, yieldbook

STATIONS = (app, guide, trips, deck, schedule, table, pack, freezer, yieldbook)
