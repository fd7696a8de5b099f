# The figures. Sourced by ./relevo after demo.sh: it measures on a demo of its own.
run_bench() {
  need_tools
  need_packages chromium=chromium chromedriver=chromium-driver
  mkdir -p "$state/bench"
  build_product
  local bench
  bench=$(dotnet_out bench/Relevo.Bench)/Relevo.Bench.dll
  # The renderers keep what the framework does for each of them, counting calls as it does by itself (in base 16).
  DOTNET_TC_CallCountingDelayMs=64 DOTNET_TC_CallCountThreshold=1E dotnet "$bench" render "$root/demo/brackenfold-mark.png"
  dotnet "$bench" pictures
  dotnet "$bench" rules
  forget_demo bench
  (
    trap stop_cluster EXIT
    start_cluster bench
    ensure_database people
    # As the server runs.
    DOTNET_TieredPGO=0 dotnet "$bench" people "$(connection_string people)"
    port=$(free_port)
    trap 'stop_children; stop_cluster' EXIT
    RELEVO_DATABASE=$(connection_string people) RELEVO_URLS=http://127.0.0.1:$port RELEVO_WEB=$root/web/dist RELEVO_DEMO_FOLDER=$root/demo RELEVO_DEMO_TOKENS=$state/bench/agents.json \
      dotnet "$(dotnet_out src/Relevo.Server)/relevo-server.dll" serve >"$state/bench/server.log" 2>&1 </dev/null &
    children+=("$!")
    await 120 "$!" "$port" /health/ready || fail "the server did not come up; .relevo/bench/server.log says why."
    dotnet "$bench" push "http://127.0.0.1:$port"
    dotnet "$bench" list "http://127.0.0.1:$port"
    dotnet "$bench" design "http://127.0.0.1:$port"
    dotnet "$bench" rules "http://127.0.0.1:$port"
    dotnet "$bench" plan "http://127.0.0.1:$port" "$(connection_string people)" "${children[-1]}"
  )
  forget_demo bench
  (
    trap stop_cluster EXIT
    start_cluster bench
    ensure_database fleet
    # The database is restarted in the middle, as an administrator would.
    local restart="$postgres_bin/pg_ctl -D $cluster -l $(dirname "$cluster")/postgres.log -m fast -w restart"
    [ "$(id -u)" != 0 ] || restart="runuser -u postgres -- $restart"
    dotnet "$bench" fleet "$(connection_string fleet)" "$(dotnet_out src/Relevo.Server)/relevo-server.dll" "$root/web/dist" "$root/demo" "$restart"
  )
  forget_demo bench
  local port
  port=$(free_port)
  start_demo bench "$port" "$(free_port)" "$(free_port)" "$(free_port)"
  dotnet "$bench" rollout "http://127.0.0.1:$port"
}
