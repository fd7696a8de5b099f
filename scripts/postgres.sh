# A private PostgreSQL cluster on loopback, in the checkout's ignored folder. Sourced by ./relevo.
postgres_bin=/usr/lib/postgresql/15/bin

# PostgreSQL does not run as root, so root lends it the user that Debian made for it.
as_postgres() { if [ "$(id -u)" = 0 ]; then runuser -u postgres -- "$@"; else "$@"; fi; }

# A name for this checkout, the same each time.
checkout_mark() { printf '%s' "$root" | sha256sum | cut -c1-12; }

# cluster_folder NAME: where the cluster lies; outside the checkout when the postgres user may not enter it, or in $cluster_home.
cluster_folder() {
  local inside=$state/$1/postgres
  if [ -n "${cluster_home:-}" ]; then printf '%s/%s/postgres' "$cluster_home" "$1"
  elif [ "$(id -u)" != 0 ] || runuser -u postgres -- test -x "$root" 2>/dev/null; then printf '%s' "$inside"
  else printf '/var/tmp/relevo-%s/%s/postgres' "$(checkout_mark)" "$1"; fi
}

# start_cluster NAME [SETTING ...]: makes it if needed and starts it on a free port. Sets $cluster, $database_port, $database_password.
start_cluster() {
  local name=$1
  shift
  need_packages "$postgres_bin/initdb=postgresql-15"
  cluster=$(cluster_folder "$name")
  local base secret=$state/$name/database-password
  base=$(dirname "$cluster")
  mkdir -p "$state/$name" "$base"
  [ "$(id -u)" != 0 ] || chown postgres "$base"
  if ! [ -s "$secret" ] || ! as_postgres test -s "$cluster/PG_VERSION"; then
    as_postgres test ! -e "$cluster" || rm -rf "$cluster"
    (umask 077; head -c 24 /dev/urandom | base64 | tr -d '/+=' >"$secret")
    # initdb reads the password from a file of its own user's, which is gone again at once.
    as_postgres sh -c 'umask 077; cat >"$1"' sh "$base/pwfile" <"$secret"
    as_postgres "$postgres_bin/initdb" -D "$cluster" -U relevo -A scram-sha-256 --pwfile="$base/pwfile" -E UTF8 --locale=C.UTF-8 --lc-collate=C >"$state/$name/initdb.log" 2>&1 \
      || fail "the database cluster could not be made; .relevo/$name/initdb.log says why."
    as_postgres rm -f "$base/pwfile"
  fi
  database_password=$(cat "$secret")
  as_postgres "$postgres_bin/pg_ctl" -D "$cluster" status >/dev/null 2>&1 && stop_cluster
  database_port=$(free_port)
  local options="-c listen_addresses=127.0.0.1 -c port=$database_port -c unix_socket_directories= -c max_connections=200" setting
  for setting in "$@"; do options+=" -c $setting"; done
  as_postgres "$postgres_bin/pg_ctl" -D "$cluster" -l "$base/postgres.log" -w -t 30 -o "$options" start >/dev/null 2>&1 \
    || fail "the database did not come up; $base/postgres.log says why."
}

stop_cluster() { [ -z "${cluster:-}" ] || as_postgres "$postgres_bin/pg_ctl" -D "$cluster" -m fast -w -t 20 stop >/dev/null 2>&1 || true; }

connection_string() { printf 'Host=127.0.0.1;Port=%s;Database=%s;Username=relevo;Password=%s' "$database_port" "$1" "$database_password"; }

sql() { PGPASSWORD=$database_password "$postgres_bin/psql" -X -q -h 127.0.0.1 -p "$database_port" -U relevo -d postgres -tAc "$1"; }

ensure_database() { [ "$(sql "select 1 from pg_database where datname = '$1'")" = 1 ] || sql "create database \"$1\"" >/dev/null; }
