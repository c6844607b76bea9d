#!/usr/bin/env bash
# The dissector that packets are held against in tests, from Debian's packages. Without it those tests are skipped.
set -u
if command -v tshark >/dev/null; then exit 0; fi
if ! command -v apt-get >/dev/null; then
  echo "tshark is missing and this machine has no apt-get: the packets are not held against it." >&2
  exit 0
fi
as_root=""
[ "$(id -u)" -eq 0 ] || as_root="sudo"
($as_root apt-get update -qq && DEBIAN_FRONTEND=noninteractive $as_root apt-get install -y -qq tshark >/dev/null) ||
  echo "tshark could not be installed: the packets are not held against it." >&2
