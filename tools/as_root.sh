#!/usr/bin/env bash
# Runs a command as root: directly if we are, by sudo otherwise.
if [ "$(id -u)" = 0 ]; then exec env DEBIAN_FRONTEND=noninteractive "$@"; else exec sudo DEBIAN_FRONTEND=noninteractive "$@"; fi
