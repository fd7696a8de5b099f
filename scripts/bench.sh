# The figures. Sourced by ./relevo after demo.sh: it measures on a demo of its own.
run_bench() {
  need_tools
  mkdir -p "$state/bench"
  build_product
  local bench
  bench=$(dotnet_out bench/Relevo.Bench)/Relevo.Bench.dll
  dotnet "$bench" render "$root/demo/brackenfold-mark.png"
  forget_demo bench
  (
    trap stop_cluster EXIT
    start_cluster bench
    ensure_database people
    dotnet "$bench" people "$(connection_string people)"
  )
  forget_demo bench
  local port
  port=$(free_port)
  start_demo bench "$port" "$(free_port)" "$(free_port)"
  dotnet "$bench" rollout "http://127.0.0.1:$port"
}
