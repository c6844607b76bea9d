#!/usr/bin/env bash
# Chromium and its driver for the browser tests, from Debian's packages where they are missing. The headless shell is
# the same engine without windows, and takes two thirds of the processor; where it is not to be had, all of Chromium
# does.
set -eu
shell=/usr/lib/chromium/chromium-headless-shell
has() { command -v "$1" >/dev/null; }
if [ -x "$shell" ] && has chromedriver; then exit 0; fi
if has apt-get; then
  as_root=""
  [ "$(id -u)" -eq 0 ] || as_root="sudo"
  install() { DEBIAN_FRONTEND=noninteractive $as_root timeout 600 apt-get install -y -qq "$@" >/dev/null; }
  $as_root timeout 300 apt-get update -qq || echo "The lists of packages cannot be brought up to date." >&2
  if install chromium-headless-shell chromium-driver; then exit 0; fi
fi
if has chromium && has chromedriver; then exit 0; fi
if has apt-get; then install chromium chromium-driver; exit 0; fi
echo "Chromium and ChromeDriver are needed for the browser tests, and this machine has no apt-get: install both." >&2
exit 1
