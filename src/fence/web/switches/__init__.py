"""The Switches page: usable in a show and without one."""
