#!/usr/bin/env bash
# Everything a change must pass, on a machine with Node.js 20 and nothing else: install, lint, format, types, structure,
# build, unit tests, browser tests, and some minutes of what the product is not meant for. Ends with one line of totals.
set -euo pipefail
cd "$(dirname "$0")/.."
export NEXT_TELEMETRY_DISABLED=1

step() { printf '\n== %s\n' "$1"; }

step 'install'
# What takes long goes on beside the steps that do not need it: the browser beside everything before its tests, packages
# that are compiled beside lint, types and build.
logs=$(mktemp -d)
trap 'rm -rf "$logs"' EXIT
browser=''
if [ -z "${CHROMIUM:-}" ] && [ ! -x /usr/bin/chromium ]; then
  sudo=''; [ "$(id -u)" = 0 ] || sudo=sudo
  { $sudo apt-get update -qq && $sudo env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium; } > "$logs/browser" 2>&1 &
  browser=$!
fi
# A folder that is already installed for this lock file is left as it is.
stamp=node_modules/.installed-for
want=$(cat package-lock.json package.json <(node -p 'process.version') | cksum)
compiled=''
if [ ! -f "$stamp" ] || [ "$(cat "$stamp")" != "$want" ]; then
  npm ci --ignore-scripts --no-audit --no-fund
  npm rebuild > "$logs/compiled" 2>&1 &
  compiled=$!
fi
# Waits for one of them; what it said is shown only when it failed.
finished() { [ -z "$2" ] || wait "$2" || { cat "$logs/$1"; exit 1; }; }

step 'lint, format, types and structure'
{ npx next typegen > /dev/null && npx tsc --noEmit; } > "$logs/types" 2>&1 &
types=$!
npx biome check --error-on-warnings .
node scripts/check-imports.mjs
finished types "$types"

step 'build'
npm run --silent build
finished compiled "$compiled"
echo "$want" > "$stamp"

failed=0
step 'unit tests'
npx vitest run --reporter=default --reporter=json --outputFile.json="$logs/unit.json" || failed=1
finished browser "$browser"
step 'browser tests'
npx vitest run --config vitest.browser.config.ts --reporter=verbose --reporter=json --outputFile.json="$logs/browser.json" || failed=1

step 'readers, kills, hostile requests'
# How quick the machine is, is not known here: by hand a reader is slow at a second.
NIMBLE_FUZZ_MILLISECONDS=4000 npx tsx scripts/fuzz.ts --seconds 20 || failed=1
npx tsx scripts/torture.ts --seconds 25 || failed=1
npx tsx scripts/hostile.ts --requests 250 || failed=1

step 'totals'
node -e '
  const sum = process.argv.slice(1).map((file) => JSON.parse(require("node:fs").readFileSync(file, "utf8")));
  const of = (key) => sum.reduce((total, one) => total + one[key], 0);
  console.log(`${of("numPassedTests")} passed, ${of("numFailedTests")} failed`);
  process.exit(of("numFailedTests") > 0 || of("numPassedTests") === 0 || of("numFailedTestSuites") > 0 ? 1 : 0);
' "$logs/unit.json" "$logs/browser.json" || failed=1
exit "$failed"
