#!/bin/sh
# Browser tests need Debian's Chromium: installed when missing and root, otherwise named.
set -e
if [ -x /usr/bin/chromium ]; then exit 0; fi
if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
  apt-get update -qq
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium
else
  echo "The browser tests need Chromium at /usr/bin/chromium: install Debian's package 'chromium' and run this again." >&2
  exit 1
fi
