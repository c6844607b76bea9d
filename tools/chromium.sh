#!/usr/bin/env bash
# Chromium and its driver for the browser tests, from Debian's packages where they are missing.
set -eu
if command -v chromium >/dev/null && command -v chromedriver >/dev/null; then exit 0; fi
if ! command -v apt-get >/dev/null; then
  echo "Chromium and ChromeDriver are needed for the browser tests, and this machine has no apt-get: install both." >&2
  exit 1
fi
as_root=""
[ "$(id -u)" -eq 0 ] || as_root="sudo"
$as_root apt-get update -qq
DEBIAN_FRONTEND=noninteractive $as_root apt-get install -y -qq chromium chromium-driver >/dev/null
