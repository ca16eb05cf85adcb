#!/bin/sh
# What gcc's analyzer and clang-tidy's bug checks have to say, file by file: about six minutes on two
# cores. What is known to be no fault stands in tests/analyze.txt, with the reason.
#   ./analyze.sh [FILE]...    without files: all of the project's own C
set -eu
cd "$(dirname "$0")"
. cmake/packages.sh
install_packages $BUILD_PACKAGES clang-tidy
cmake --preset release -DCMAKE_EXPORT_COMPILE_COMMANDS=ON >/dev/null
cmake --build --preset release >/dev/null
[ $# -gt 0 ] || set -- $(git ls-files 'src/*.c' 'ports/*.c' 'host/*.c' 'cli/*.c')
log=$(mktemp -d)
trap 'rm -rf "$log"' EXIT
cat >"$log/one" <<'END'
flags="$(pkg-config --cflags glib-2.0 libcyaml yaml-0.1 jansson cairo sqlite3) -Iinclude -Isrc -Iports -Ihost -Icli"
gcc -std=c11 -O2 -fanalyzer -D_DEFAULT_SOURCE -D_XOPEN_SOURCE=700 $flags -c "$1" -o /dev/null 2>&1 | grep 'warning:' || true
clang-tidy -p build --quiet --checks='-*,clang-analyzer-*,bugprone-*,-bugprone-easily-swappable-parameters,-bugprone-reserved-identifier,-clang-analyzer-security.insecureAPI.DeprecatedOrUnsafeBufferHandling' "$1" 2>/dev/null | grep 'warning:' | sed "s|^$PWD/||" || true
END
printf '%s\n' "$@" | xargs -P 2 -n 1 sh "$log/one" | sort -u >"$log/all"
grep -v '^#' tests/analyze.txt | sed -n 's/^\([^ ]*\) \([^ ]*\) .*/\1 \2/p' >"$log/known"
# "FILE:LINE:COLUMN: warning: TEXT [CHECK]" is excused by "FILE CHECK"; lines move, checks do not.
while read -r line; do
    file=${line%%:*}
    check=$(printf '%s' "$line" | sed 's/.*\[-*\(W*[^]]*\)\]$/\1/')
    grep -qxF "$file $check" "$log/known" || printf '%s\n' "$line" >>"$log/new"
done <"$log/all"
echo "$(wc -l <"$log/all") warnings, $(cat "$log/new" 2>/dev/null | wc -l) of them not excused"
[ ! -e "$log/new" ] || { cat "$log/new"; exit 1; }
