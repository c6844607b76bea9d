"""The Lines step: what hangs behind what, from the source to the last terminator."""
