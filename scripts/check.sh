#!/usr/bin/env bash
# Everything a change must pass, on a machine with Node.js 20 and nothing else: install, lint, types, import direction, unit tests,
# build, browser tests. Ends with one line of totals.
set -euo pipefail
cd "$(dirname "$0")/.."
export NEXT_TELEMETRY_DISABLED=1

step() { printf '\n== %s\n' "$1"; }

step 'install'
# A folder that is already installed for this lock file is left as it is.
stamp=node_modules/.installed-for
want=$(cat package-lock.json package.json <(node -p 'process.version') | cksum)
if [ ! -f "$stamp" ] || [ "$(cat "$stamp")" != "$want" ]; then
  npm ci --no-audit --no-fund
  echo "$want" > "$stamp"
fi
if [ -z "${CHROMIUM:-}" ] && [ ! -x /usr/bin/chromium ]; then
  sudo=''; [ "$(id -u)" = 0 ] || sudo=sudo
  $sudo apt-get update -qq
  $sudo env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium > /dev/null
fi

step 'lint'
npx biome check --error-on-warnings .
step 'types'
npx next typegen > /dev/null
npx tsc --noEmit
step 'import direction'
node scripts/check-imports.mjs

out=$(mktemp -d)
trap 'rm -rf "$out"' EXIT
failed=0
step 'unit tests'
npx vitest run --reporter=default --reporter=json --outputFile.json="$out/unit.json" || failed=1
step 'build'
npx next build
step 'browser tests'
npx vitest run --config vitest.browser.config.ts --reporter=verbose --reporter=json --outputFile.json="$out/browser.json" || failed=1

step 'totals'
node -e '
  const sum = process.argv.slice(1).map((file) => JSON.parse(require("node:fs").readFileSync(file, "utf8")));
  const of = (key) => sum.reduce((total, one) => total + one[key], 0);
  console.log(`${of("numPassedTests")} passed, ${of("numFailedTests")} failed`);
  process.exit(of("numFailedTests") > 0 || of("numPassedTests") === 0 || of("numFailedTestSuites") > 0 ? 1 : 0);
' "$out/unit.json" "$out/browser.json" || failed=1
exit "$failed"
