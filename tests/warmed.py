"""What every forked app has in memory already: the program, its fish drawn, its templates compiled.

Imported by the process that is forked (see `tests.warm`), and by no test.
"""

from lepidos.guide.library import load_guide
from lepidos.web.drawings.fish import draw_ahead
from lepidos.web.shell.render import compile_ahead
from tests import warm  # noqa: F401 - what is run there, and all of the program

draw_ahead(load_guide())
compile_ahead()
