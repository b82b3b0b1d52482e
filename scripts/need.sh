#!/usr/bin/env bash
# Installs what is missing, from Debian's packages: need.sh [demo|test]
#   demo  PostgreSQL's server programs
#   test  these, Chromium, and what reads a PDF
# It makes and starts no system cluster. Says plainly what is missing when it
# cannot go on.
set -euo pipefail
what=${1:-demo}

fail() { printf 'glenmist: %s\n' "$*" >&2; exit 1; }

command -v go >/dev/null || fail "Go is missing: install Go 1.26 or newer"
command -v node >/dev/null && command -v npm >/dev/null || fail "Node is missing: install Node 20 or newer, with npm"
major=$(node -p 'process.versions.node.split(".")[0]')
[ "$major" -ge 20 ] || fail "Node 20 or newer is needed, found $(node --version)"

has_server() {
  [ -n "${GLENMIST_PG_BIN:-}" ] && [ -x "$GLENMIST_PG_BIN/initdb" ] && return 0
  compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null && compgen -G '/usr/lib/postgresql/*/bin/postgres' >/dev/null && return 0
  command -v initdb >/dev/null && command -v postgres >/dev/null
}
has_chromium() { [ -n "${GLENMIST_CHROMIUM:-}" ] || command -v chromium >/dev/null || command -v chromium-browser >/dev/null; }

packages=()
has_server || packages+=(postgresql)
if [ "$what" = test ]; then
  has_chromium || packages+=(chromium fonts-dejavu-core)
  command -v pdftotext >/dev/null || packages+=(poppler-utils)
fi
[ ${#packages[@]} -eq 0 ] && exit 0

command -v apt-get >/dev/null || fail "missing: ${packages[*]}, and this is no Debian to install them on; see GLENMIST_PG_BIN and GLENMIST_CHROMIUM in README.md"
as_root=()
if [ "$(id -u)" -ne 0 ]; then
  command -v sudo >/dev/null || fail "missing: ${packages[*]}; run as root: apt-get install ${packages[*]}"
  as_root=(sudo)
fi
echo "glenmist: installing ${packages[*]} from Debian's packages"
export DEBIAN_FRONTEND=noninteractive
root() { "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive "$@"; }
root apt-get update -qq || fail "apt-get update failed; are Debian's packages within reach?"
# Debian's package would make a cluster of its own and start it. It is told not
# to, for as long as it is being installed.
hold=/etc/postgresql-common/createcluster.d/glenmist.conf
if ! has_server; then
  root mkdir -p "$(dirname "$hold")"
  root sh -c "echo 'create_main_cluster = false' > $hold"
  trap 'root rm -f "$hold"' EXIT
fi
root apt-get install -y -qq --no-install-recommends "${packages[@]}" >/dev/null || fail "apt-get could not install ${packages[*]}"
has_server || fail "PostgreSQL's server programs are still missing"
[ "$what" != test ] || has_chromium || fail "Chromium is still missing"
