#!/bin/sh
# Kills commands that write, with every signal, at random moments: eight commands, COUNT times each.
#   perf/kills.sh [COUNT]
set -eu
cd "$(dirname "$0")/.."
BOOTLACE_KILLS=${1:-170} build/tests/test-cli killed_commands_leave_old_or_new 2>/dev/null
