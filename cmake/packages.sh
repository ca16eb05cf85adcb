# packages.sh - what Bootlace needs from Debian; sourced by demo.sh and test.sh.
BUILD_PACKAGES="gcc libc6-dev make cmake ninja-build pkg-config libglib2.0-dev libcyaml-dev libyaml-dev libjansson-dev libcairo2-dev libsqlite3-dev libreadline-dev libncurses-dev libsndfile1-dev"
TEST_PACKAGES="clang clang-format libclang-rt-14-dev git"

# install_packages NAMES: installs those that are missing, with apt-get when root and sudo when not.
install_packages() {
    missing=""
    for package in "$@"; do
        dpkg-query -W -f '${Status}' "$package" 2>/dev/null | grep -q "install ok installed" || missing="$missing $package"
    done
    [ -z "$missing" ] && return 0
    echo "installing:$missing" >&2
    sudo=""
    [ "$(id -u)" -eq 0 ] || sudo=sudo
    $sudo apt-get update -qq >&2 && DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends $missing >&2
}
