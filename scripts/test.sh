# Every check and test. Sourced by ./relevo.
passed=0
failed=0

# check NAME COMMAND ...: one check, counted; its output is shown when it fails.
check() {
  local name=$1 log=$state/test/check-$BASHPID.log
  shift
  if "$@" >"$log" 2>&1; then passed=$((passed + 1)); say "  ok      $name"
  else failed=$((failed + 1)); say "  FAILED  $name"; tail -40 "$log"; fi
}

# count LOG PATTERN: the number after the pattern's last occurrence.
count() { grep -oE "$2 *[0-9]+" "$1" | tail -1 | grep -oE '[0-9]+$' || printf 0; }

# suite PROJECT [OPTION ...]: runs an xUnit program, which counts for as many tests as it ran.
suite() {
  local name=$1 log=$state/test/$1.log code=0 total bad skipped started=$SECONDS
  shift
  (cd "$(dotnet_out "tests/$name")" && "./$name" -noColor "$@") >"$log" 2>&1 || code=$?
  total=$(count "$log" 'Total:')
  bad=$(($(count "$log" 'Failed:') + $(count "$log" 'Errors:')))
  skipped=$(($(count "$log" 'Skipped:') + $(count "$log" 'Not Run:')))
  [ "$code" = 0 ] || [ "$bad" -gt 0 ] || bad=1
  [ "$total" -gt 0 ] || bad=1
  passed=$((passed + (total > bad + skipped ? total - bad - skipped : 0)))
  failed=$((failed + bad))
  if [ "$bad" = 0 ]; then say "  ok      $name: $total tests, $((SECONDS - started)) s"
  else say "  FAILED  $name"; grep -vE '^\s*(Discover|Starting|Finished)|^\{' "$log" | tail -60; fi
}

web_tests() {
  local log=$state/test/web.log ran
  if (cd web && npx --no-install vitest run --reporter=json --outputFile="$state/test/web.json") >"$log" 2>&1; then
    ran=$(node -p "require('$state/test/web.json').numPassedTests")
    passed=$((passed + ran))
    say "  ok      web: $ran tests"
  else
    failed=$((failed + 1))
    say "  FAILED  web"
    tail -40 "$log"
  fi
}

# The launcher's own refusals; each line of the script is one check.
launcher_tests() {
  local log=$state/test/launcher.log
  bash tests/launcher.sh >"$log" 2>&1 || true
  local good bad
  good=$(grep -c '^ok ' "$log" || true)
  bad=$(grep -c '^FAILED ' "$log" || true)
  [ "$good" -gt 0 ] || bad=$((bad + 1))
  passed=$((passed + good))
  failed=$((failed + bad))
  if [ "$bad" = 0 ]; then say "  ok      launcher: $good checks"
  else say "  FAILED  launcher"; cat "$log"; fi
}

# What needs neither database nor browser. It runs beside the server's tests, and leaves its counts for them.
still_checks() {
  passed=0 failed=0
  # The compiler holds the C# to its rules of style already; what it cannot see is the white space.
  check "C# is formatted" dotnet format whitespace Relevo.slnx --verify-no-changes --no-restore --verbosity quiet
  check "TypeScript passes its types" sh -c 'cd web && npx --no-install tsc --noEmit'
  check "TypeScript passes the linter" sh -c 'cd web && npx --no-install eslint .'
  check "TypeScript is formatted" sh -c 'cd web && npx --no-install prettier --check --log-level warn .'
  web_tests
  printf '%s %s\n' "$passed" "$failed" >"$state/test/still.counts"
}

# What still_checks ($1: its process) found.
take_still_checks() {
  local good=0 bad=1
  wait "$1" || true
  cat "$state/test/still.out"
  [ -e "$state/test/still.counts" ] && read -r good bad <"$state/test/still.counts"
  passed=$((passed + good)) failed=$((failed + bad))
}

install_outside() {
  is_fresh "$state/outside.stamp" tests/outside/package-lock.json && return
  (cd tests/outside && npm ci --no-audit --no-fund --ignore-scripts) >"$state/npm-outside.log" 2>&1 || fail "the packages of the outside checks could not be installed; .relevo/npm-outside.log says why."
  touch "$state/outside.stamp"
}

# Each test has a database of its own, which is some 400 files; made in memory, all of them take a third less time. Where there is room for them, that is.
choose_test_home() {
  local room
  room=$(df -Pm /dev/shm 2>/dev/null | awk 'NR == 2 { print $4 }')
  if [ "${room:-0}" -gt 4096 ] && [ "$(awk '/MemAvailable/ { print int($2 / 1024) }' /proc/meminfo)" -gt 8192 ]; then
    cluster_home=/dev/shm/relevo-$(checkout_mark)
    mkdir -p -m 755 "$cluster_home"
  fi
}

leave_test_home() {
  stop_children
  stop_cluster
  [ -z "${cluster_home:-}" ] || rm -rf "$cluster_home"
}

run_tests() {
  need_tools
  mkdir -p "$state/test"
  trap leave_test_home EXIT
  trap 'exit 130' INT TERM
  beside need_packages chromium=chromium chromedriver=chromium-driver /usr/sbin/slapd=slapd ldapmodify=ldap-utils openssl=openssl /usr/share/fonts/truetype/liberation/LiberationSans-Regular.ttf=fonts-liberation "$postgres_bin/initdb=postgresql-15"
  local packages=$!
  beside install_outside
  local outside=$!
  build_product
  wait "$packages" || exit 1
  wait "$outside" || exit 1
  generate_api
  rm -f "$state/test/still.counts"
  beside still_checks >"$state/test/still.out" 2>&1
  local still=$!
  say "Checks and tests"
  choose_test_home
  start_cluster test fsync=off full_page_writes=off synchronous_commit=off
  export RELEVO_TEST_DATABASE RELEVO_ROOT=$root
  RELEVO_TEST_DATABASE=$(connection_string postgres)
  suite Relevo.Server.Tests -maxThreads 4 # they wait for the database half of their time
  suite Relevo.Core.Tests
  take_still_checks "$still"
  launcher_tests
  suite Relevo.Browser.Tests
  say "All of it took $((SECONDS / 60)) min $((SECONDS % 60)) s."
  say "$passed passed, $failed failed"
  [ "$failed" = 0 ]
}
