"""`python -m evenseam.cli`."""

from evenseam.cli.commands import main

main()
