# Builds what is out of date, and nothing else. Sourced by ./relevo.
export DOTNET_NOLOGO=1 DOTNET_CLI_TELEMETRY_OPTOUT=1
build_log=$state/build.log

# is_fresh STAMP FOLDER ...: true when nothing below the folders is newer than the stamp.
is_fresh() {
  local stamp=$1
  shift
  [ -e "$stamp" ] && [ -z "$(find "$@" \( -name bin -o -name obj -o -name node_modules -o -name dist -o -name generated \) -prune -o -type f -newer "$stamp" -print -quit)" ]
}

dotnet_out() { printf '%s' "$root/$1/bin/Release/net10.0"; }

build_dotnet() {
  is_fresh "$state/dotnet.stamp" src tests bench demo Relevo.slnx Directory.Build.props Directory.Packages.props global.json .editorconfig && return
  say "Building the server and its companions ..."
  touch "$state/dotnet.next"
  # The compiler itself is done before counting its branches would bring anything back.
  DOTNET_TieredPGO=0 dotnet build Relevo.slnx -c Release -v quiet --nologo >"$build_log" 2>&1 || { grep -E 'error|warn' "$build_log" | sort -u | head -20 >&2; fail "the build failed; .relevo/build.log has all of it."; }
  mv "$state/dotnet.next" "$state/dotnet.stamp"
}

install_web() {
  is_fresh "$state/npm.stamp" web/package.json web/package-lock.json && [ -d web/node_modules ] && return
  say "Installing the npm packages ..."
  (cd web && npm ci --no-audit --no-fund --ignore-scripts) >"$state/npm.log" 2>&1 || fail "the npm packages could not be installed; .relevo/npm.log says why."
  touch "$state/npm.stamp"
}

build_web() {
  is_fresh "$state/web.stamp" web && [ -d web/dist ] && return
  install_web
  say "Building the screens ..."
  touch "$state/web.next"
  (cd web && npm run --silent build) >"$state/web.log" 2>&1 || { tail -20 "$state/web.log" >&2; fail "the screens could not be built; .relevo/web.log has all of it."; }
  mv "$state/web.next" "$state/web.stamp"
}

# The screens' types come from the server's own description of its API; only the compiler reads them, so that a start does without.
generate_api() {
  is_fresh "$state/api.stamp" src web/package-lock.json && [ -e web/src/api/generated/schema.ts ] && return
  mkdir -p web/src/api/generated
  dotnet "$(dotnet_out src/Relevo.Server)/relevo-server.dll" openapi web/src/api/generated/openapi.json >>"$build_log" 2>&1 || fail "the API description could not be written; .relevo/build.log says why."
  (cd web && npx --no-install openapi-typescript src/api/generated/openapi.json -o src/api/generated/schema.ts) >>"$build_log" 2>&1 || fail "the API types could not be written; .relevo/build.log says why."
  touch "$state/api.stamp"
}

# The screens are built beside the server: one waits for the network while the other computes.
build_product() {
  need_ldap
  beside build_web
  local screens=$! trouble=0
  (build_dotnet) || trouble=1
  wait "$screens" || trouble=1
  [ "$trouble" = 0 ] || exit 1
}

exec_server() {
  export RELEVO_WEB=${RELEVO_WEB:-$root/web/dist}
  unset RELEVO_DEMO_FOLDER RELEVO_DEMO_TOKENS
  exec dotnet "$(dotnet_out src/Relevo.Server)/relevo-server.dll" serve
}
