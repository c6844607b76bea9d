"""The Switches page and its drill: usable in a show and without one."""
