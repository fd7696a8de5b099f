# Back-up and restore of everything Relevo keeps: all of it lies in one database. Sourced by ./relevo.

# read_connection: takes RELEVO_DATABASE apart for PostgreSQL's own tools; the password goes by the environment, where no other user reads it.
read_connection() {
  [ -n "${RELEVO_DATABASE:-}" ] || fail "RELEVO_DATABASE is not set; give it the connection string of Relevo's database."
  local part name value
  PGHOST='' PGPORT=5432 PGDATABASE='' PGUSER='' PGPASSWORD=''
  while IFS= read -r -d ';' part || [ -n "$part" ]; do
    name=$(printf '%s' "${part%%=*}" | tr 'A-Z' 'a-z' | tr -d ' ')
    value=${part#*=}
    case $name in
      host | server) PGHOST=$value ;;
      port) PGPORT=$value ;;
      database | db) PGDATABASE=$value ;;
      username | userid | user) PGUSER=$value ;;
      password) PGPASSWORD=$value ;;
    esac
    part=
  done <<<"$RELEVO_DATABASE"
  # The here-document ends its last part with a line break.
  PGHOST=${PGHOST%$'\n'} PGPORT=${PGPORT%$'\n'} PGDATABASE=${PGDATABASE%$'\n'} PGUSER=${PGUSER%$'\n'} PGPASSWORD=${PGPASSWORD%$'\n'}
  [ -n "$PGHOST" ] && [ -n "$PGDATABASE" ] || fail "RELEVO_DATABASE names no host or no database; it looks like \"Host=...;Database=...;Username=...;Password=...\"."
  export PGHOST PGPORT PGDATABASE PGUSER PGPASSWORD
}

run_backup() {
  local file=${1:-}
  [ -n "$file" ] || fail "say where to: ./relevo backup FILE."
  [ ! -e "$file" ] || fail "$file is there already; a back-up never writes over one."
  need_packages "$postgres_bin/pg_dump=postgresql-15"
  read_connection
  # Written beside its place and renamed when it is whole, so that half of one is never taken for a back-up.
  (umask 077; "$postgres_bin/pg_dump" --format=custom --no-owner --no-privileges --file="$file.unfinished") \
    || { rm -f "$file.unfinished"; fail "the database could not be read; nothing was written."; }
  mv "$file.unfinished" "$file"
  printf 'Backed up to %s (%s bytes). It holds the keys of sign-ins: guard it.\n' "$file" "$(stat -c %s "$file")"
}

run_restore() {
  local file=${1:-}
  [ -n "$file" ] || fail "say what from: ./relevo restore FILE."
  [ -r "$file" ] || fail "$file cannot be read."
  need_packages "$postgres_bin/pg_restore=postgresql-15"
  read_connection
  local tables
  tables=$("$postgres_bin/psql" -X -q -tAc "select count(*) from information_schema.tables where table_schema = 'public'") || fail "the database cannot be reached."
  [ "$tables" = 0 ] || fail "the database $PGDATABASE holds $tables tables; restore into an empty one, and nothing is lost."
  "$postgres_bin/pg_restore" --single-transaction --exit-on-error --no-owner --no-privileges --dbname="$PGDATABASE" "$file" \
    || fail "the back-up could not be restored; the database is as empty as before."
  "$postgres_bin/psql" -X -q -c analyze
  printf 'Restored. Start the server on it; clients find it as they left it.\n'
}
