# Small things every command of the launcher needs. Sourced by ./relevo; $root is the checkout.
state=$root/.relevo

say() { printf '%s\n' "$*"; }
fail() { printf 'relevo: %s\n' "$*" >&2; exit 1; }

as_root() {
  if [ "$(id -u)" = 0 ]; then "$@"
  elif command -v sudo >/dev/null; then sudo "$@"
  else fail "installing $* needs root or sudo."; fi
}

# need_packages COMMAND-OR-FILE=PACKAGE ...: installs the Debian packages whose command or file is missing.
need_packages() {
  local missing=() pair
  for pair in "$@"; do
    if ! command -v "${pair%%=*}" >/dev/null && ! [ -e "${pair%%=*}" ]; then missing+=("${pair#*=}"); fi
  done
  [ ${#missing[@]} = 0 ] && return
  command -v apt-get >/dev/null || fail "missing: ${missing[*]}; this machine has no apt-get, install them by hand."
  say "Installing ${missing[*]} ..."
  as_root flock "$state/apt.lock" env DEBIAN_FRONTEND=noninteractive sh -c 'apt-get update -qq && apt-get install -y -qq --no-install-recommends "$@"' sh "${missing[@]}" >"$state/apt.log" 2>&1 \
    || fail "the Debian packages ${missing[*]} could not be installed; .relevo/apt.log says why."
}

need_tools() {
  mkdir -p "$state"
  command -v dotnet >/dev/null || fail "the .NET SDK 10 is missing; install it so that \"dotnet\" is on the PATH."
  case $(dotnet --version 2>/dev/null) in 10.*) ;; *) fail "the .NET SDK on the PATH is not version 10." ;; esac
  command -v node >/dev/null && command -v npm >/dev/null || fail "Node.js 20 with npm is missing; install it so that \"node\" is on the PATH."
  [ "$(node -p 'process.versions.node.split(".")[0]')" -ge 20 ] || fail "Node.js on the PATH is older than version 20."
}

# The server asks directory servers through the system's own library.
need_ldap() {
  ldconfig -p 2>/dev/null | grep -q 'libldap-2\.5\.so\.0' || need_packages /usr/share/doc/libldap-2.5-0=libldap-2.5-0
}

# beside COMMAND ...: runs it in the background, where Ctrl-C still ends it; its process is $!.
beside() { (trap - INT; "$@") & }

port_is_taken() { (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

free_port() {
  local port
  for _ in $(seq 50); do
    port=$((20000 + RANDOM % 12000))
    port_is_taken "$port" || { printf '%s' "$port"; return; }
  done
  fail "no free port was found between 20000 and 32000."
}

# answers PORT PATH: true when an HTTP server there answers 200. Without curl, which a fresh machine may not have.
answers() {
  local status
  exec 9<>"/dev/tcp/127.0.0.1/$1" || return 1
  printf 'GET %s HTTP/1.0\r\nHost: 127.0.0.1\r\n\r\n' "$2" >&9
  read -r -t 5 status <&9 || status=
  exec 9<&- 9>&-
  [[ $status == *" 200 "* ]]
} 2>/dev/null

# await SECONDS PID PORT PATH: waits until the process answers; false when it ends or the time is up.
await() {
  local tries=$(($1 * 10))
  while ! answers "$3" "$4"; do
    kill -0 "$2" 2>/dev/null || return 1
    tries=$((tries - 1))
    [ "$tries" -gt 0 ] || return 1
    sleep 0.1
  done
}

children=()
stop_children() {
  local child
  for child in "${children[@]}"; do kill "$child" 2>/dev/null || true; done
  for child in "${children[@]}"; do
    for _ in $(seq 50); do kill -0 "$child" 2>/dev/null || break; sleep 0.1; done
    kill -9 "$child" 2>/dev/null || true
    wait "$child" 2>/dev/null || true
  done
  children=()
}
