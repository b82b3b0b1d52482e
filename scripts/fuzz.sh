#!/usr/bin/env bash
# Runs every fuzz target FUZZCOUNT times (100000), or those whose package and name match
# FUZZ. Prints a line for each: package, name, runs a second. Minimising an input is cut
# short: it took nine tenths of the time.
set -euo pipefail
cd "$(dirname "$0")/.."
count=${FUZZCOUNT:-100000}
git grep -nE '^func Fuzz[A-Za-z0-9]+\(f \*testing' -- '*_test.go' | while IFS=: read -r file _ line; do
  name=$(sed -E 's/^func (Fuzz[A-Za-z0-9]+).*/\1/' <<<"$line")
  dir=$(dirname "$file")
  [[ "$dir $name" =~ ${FUZZ:-.} ]] || continue
  began=$(date +%s)
  if ! out=$(go test "./$dir" -run '^$' -fuzz "^$name\$" -fuzztime "${count}x" -fuzzminimizetime 100x </dev/null 2>&1); then
    printf '%s\n' "$out"
    exit 1
  fi
  took=$(($(date +%s) - began))
  printf '%-16s %-20s %10d runs, %6d s, %7d a second\n' "$dir" "$name" "$count" "$took" "$((count / (took > 0 ? took : 1)))"
done
