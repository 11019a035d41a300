"""`python -m lepidos` is the same as `lepidos`."""

from lepidos.cli.main import main

main()
