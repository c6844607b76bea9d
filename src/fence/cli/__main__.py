"""``python -m fence.cli``."""

from fence.cli import main

main()
