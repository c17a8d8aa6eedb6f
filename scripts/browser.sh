#!/bin/sh
# Installs what the tests drive Zembra with, when it is missing and it may: Debian's Chromium and ChromeDriver, and nginx for TLS.
if [ -x /usr/bin/chromium ] && [ -x /usr/bin/chromedriver ] && [ -x /usr/sbin/nginx ]; then exit 0; fi
if [ "$(id -u)" = 0 ]; then AS=""; elif sudo -n true 2>/dev/null; then AS="sudo"; else
  echo "chromium, chromium-driver or nginx-light is missing and cannot be installed without root: install them, or go without: ZEMBRA_NO_BROWSER=1."
  exit 0
fi
echo "Installing chromium, chromium-driver and nginx-light…"
$AS apt-get update -qq && $AS apt-get install -y -qq --no-install-recommends chromium chromium-driver nginx-light openssl >/dev/null
