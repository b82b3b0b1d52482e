#!/usr/bin/env bash
# Runs every fuzz target for FUZZTIME.
set -euo pipefail
cd "$(dirname "$0")/.."
git grep -nE '^func Fuzz[A-Za-z]+\(f \*testing' -- '*_test.go' | while IFS=: read -r file _ line; do
  name=$(sed -E 's/^func (Fuzz[A-Za-z]+).*/\1/' <<<"$line")
  echo "fuzz $(dirname "$file") $name"
  go test "./$(dirname "$file")" -run '^$' -fuzz "^$name\$" -fuzztime "${FUZZTIME:-20s}" </dev/null
done
