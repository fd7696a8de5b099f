# The demo company: a database, the server, and the stand-ins, all on loopback. Sourced by ./relevo.

stop_demo() {
  trap - EXIT INT TERM
  stop_children
  stop_cluster
}

# start_demo NAME PORT STANDINS-PORT DIRECTORY-PORT MAIL-PORT: leaves everything running; sets $server_pid.
start_demo() {
  local name=$1 port=$2 standins_port=$3 directory_port=$4 mail_port=$5 place=$state/$1
  port_is_taken "$port" && fail "port $port is taken; stop what uses it, or choose another with --port."
  port_is_taken "$standins_port" && fail "port $standins_port, which the stand-ins need, is taken; stop what uses it, or choose another with --port."
  port_is_taken "$directory_port" && fail "port $directory_port, which the stand-in directory needs, is taken; stop what uses it, or choose another with --port."
  port_is_taken "$mail_port" && fail "port $mail_port, which the stand-in mailbox needs, is taken; stop what uses it, or choose another with --port."
  trap stop_demo EXIT
  trap 'exit 130' INT
  trap 'exit 143' TERM
  start_cluster "$name"
  ensure_database relevo
  RELEVO_DATABASE=$(connection_string relevo) RELEVO_URLS=http://127.0.0.1:$port RELEVO_WEB=$root/web/dist \
    RELEVO_DEMO_FOLDER=$root/demo RELEVO_DEMO_TOKENS=$place/agents.json RELEVO_SMTP=smtp://127.0.0.1:$mail_port \
    RELEVO_DEMO_MAILBOXES="http://127.0.0.1:$standins_port/.well-known/jmap demo-mailboxes" RELEVO_MAILBOX_LOOK_SECONDS=5 \
    dotnet "$(dotnet_out src/Relevo.Server)/relevo-server.dll" serve >"$place/server.log" 2>"$place/server-errors.log" </dev/null &
  server_pid=$!
  children+=("$server_pid")
  await 60 "$server_pid" "$port" /health/ready || fail "the server did not come up: $(tail -n 1 "$place/server-errors.log" | cut -c1-300) (.relevo/$name/server.log)"
  [ -s "$place/agents.json" ] || fail "the agents' tokens of this demo are gone; start over with ./relevo demo --fresh."
  dotnet "$(dotnet_out src/Relevo.StandIns)/relevo-standins.dll" --server "http://127.0.0.1:$port" --urls "http://127.0.0.1:$standins_port" \
    --tokens "$place/agents.json" --folder "$place/desk-apps" --agent "$(dotnet_out src/Relevo.Agent)/relevo-agent.dll" \
    --directory "$root/demo/brackenfold.ldif" --directory-port "$directory_port" --mail-port "$mail_port" --mailbox-token demo-mailboxes >"$place/standins.log" 2>&1 </dev/null &
  children+=("$!")
  await 30 "$!" "$standins_port" / || fail "the stand-ins did not come up: $(tail -n 1 "$place/standins.log" | cut -c1-300)"
}

# forget_demo NAME: removes its database and folders.
forget_demo() {
  cluster=$(cluster_folder "$1")
  [ ! -x "$postgres_bin/pg_ctl" ] || stop_cluster
  rm -rf "$cluster" "${state:?}/$1/desk-apps" "$state/$1/agents.json" "$state/$1/database-password"
}

run_demo() {
  local port=8420 fresh=
  while [ $# -gt 0 ]; do
    case $1 in
      --fresh) fresh=yes ;;
      --port) port=${2:-}; [[ $port =~ ^[0-9]{2,5}$ ]] && [ "$port" -lt 65532 ] || fail "--port wants a number below 65532."; shift ;;
      *) fail "\"$1\" is not known; the demo takes --fresh and --port PORT." ;;
    esac
    shift
  done
  need_tools
  mkdir -p "$state/demo"
  exec 8>"$state/demo/lock"
  flock -n 8 || fail "the demo is running already; stop it with Ctrl-C where it was started."
  build_product
  [ -z "$fresh" ] || forget_demo demo
  start_demo demo "$port" $((port + 1)) $((port + 2)) $((port + 3)) 8>&-
  cat <<TEXT

Relevo is ready:        http://127.0.0.1:$port
Administrator:          ines.albrecht@brackenfold.example    paper-ink-and-baton
Employee:               maren.holtkamp@brackenfold.example   my-own-signature
Simulated desk apps:    http://127.0.0.1:$((port + 1))
Stand-in directory:     http://127.0.0.1:$((port + 1))/directory
Stand-in mailboxes:     http://127.0.0.1:$((port + 1))/mailboxes
Phones, compose windows: http://127.0.0.1:$((port + 1))/phones and /compose
Mail that arrived:      http://127.0.0.1:$((port + 1))/mail
A directory to drop:    demo/brackenfold-december.ldif

Ctrl-C stops all of it.
TEXT
  local child
  wait -n "${children[@]}" && child=0 || child=$?
  fail "a part of the demo ended by itself (exit code $child); .relevo/demo/server.log and standins.log say why."
}
