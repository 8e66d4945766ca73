"""`python -m wennak`."""

from .cli import main

main(prog_name="wennak")
