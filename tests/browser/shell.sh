#!/bin/sh
# Chromium's headless shell with a page open: its driver asks for none, and the shell opens none by itself.
exec /usr/lib/chromium/chromium-headless-shell "$@" about:blank
