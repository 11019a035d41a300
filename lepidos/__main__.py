"""`python -m lepidos` is the same as `lepidos`."""

from lepidos.cli import main

main()
