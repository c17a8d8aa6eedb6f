#!/bin/sh
# Installs Debian's Chromium and ChromeDriver for the browser tests, when they are missing and it may.
if [ -x /usr/bin/chromium ] && [ -x /usr/bin/chromedriver ]; then exit 0; fi
if [ "$(id -u)" = 0 ]; then AS=""; elif sudo -n true 2>/dev/null; then AS="sudo"; else
  echo "chromium and chromium-driver are missing and cannot be installed without root: install them, or go without: ZEMBRA_NO_BROWSER=1."
  exit 0
fi
echo "Installing chromium and chromium-driver…"
$AS apt-get update -qq && $AS apt-get install -y -qq --no-install-recommends chromium chromium-driver >/dev/null
