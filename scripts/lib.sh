# Shared by ./start and ./test: what is needed on the machine, and building. Sourced, not run.

export npm_config_update_notifier=false npm_config_fund=false npm_config_audit=false

say() { printf '%s\n' "$*"; }
fail() { printf '\n%s\n' "$*" >&2; exit 1; }

# need_command NAME WHAT: stops unless the command exists.
need_command() {
  command -v "$1" >/dev/null 2>&1 || fail "Missing: $2. Install it and run this again."
}

# need_package PACKAGE PRESENT_TEST…: installs a Debian package when the test fails and we are root, else says so.
need_package() {
  local package=$1; shift
  "$@" && return
  [ "$(id -u)" = 0 ] || fail "Missing: the Debian package $package. Install it with: sudo apt-get install $package"
  say "  installing the Debian package $package …"
  export DEBIAN_FRONTEND=noninteractive
  apt-get update -qq >/dev/null 2>&1 || true
  apt-get install -y -qq --no-install-recommends "$package" >"$BUILD/apt.log" 2>&1 ||
    { tail -n 15 "$BUILD/apt.log" >&2; fail "The package $package could not be installed."; }
}

postgres_bin() { ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1; }
has_postgres() { local bin; bin=$(postgres_bin); [ -n "$bin" ] && [ -x "$bin/initdb" ]; }
has_pooler() { [ -x /usr/sbin/pgbouncer ]; }
has_haproxy() { command -v haproxy >/dev/null 2>&1 || [ -x /usr/sbin/haproxy ]; }
has_headless_shell() { command -v chromium-headless-shell >/dev/null 2>&1; }

need_postgres() {
  if ! has_postgres && [ "$(id -u)" = 0 ]; then
    # Only the programs are wanted, not a cluster of the system's own.
    mkdir -p /etc/postgresql-common
    [ -e /etc/postgresql-common/createcluster.conf ] ||
      echo 'create_main_cluster = false' >/etc/postgresql-common/createcluster.conf
  fi
  need_package postgresql has_postgres
}

# changed_since STAMP PATH…: whether a file below the paths is newer than the stamp.
changed_since() {
  local stamp=$1; shift
  [ ! -e "$stamp" ] ||
    [ -n "$(find "$@" \( -name bin -o -name obj -o -name node_modules -o -name dist \) -prune -o -type f -newer "$stamp" -print -quit 2>/dev/null)" ]
}

install_node_packages() { # DIR
  local stamp=$BUILD/npm-$(basename "$1").stamp
  if [ ! -d "$1/node_modules" ] || changed_since "$stamp" "$1/package-lock.json"; then
    (cd "$1" && npm ci --loglevel=error) || fail "The packages of $1 could not be installed."
    touch "$stamp"
  fi
}

build_web() {
  if [ ! -d web/dist/workspace ] || changed_since "$BUILD/web.stamp" web; then
    local begun=$BUILD/web.begun
    touch "$begun"
    (cd web && npm run --silent build) >"$BUILD/web.log" 2>&1 || { tail -n 40 "$BUILD/web.log" >&2; fail "The interface could not be built."; }
    mv "$begun" "$BUILD/web.stamp"
  fi
}

build_server() {
  if changed_since "$BUILD/server.stamp" src Directory.Build.props Directory.Packages.props web/src/outlet/texts; then
    local begun=$BUILD/server.begun
    touch "$begun"
    for project in Valtro.Server Valtro.StandIns; do
      dotnet build "src/$project" -c Release -nologo -v quiet -p:OpenApiGenerateDocumentsOnBuild=false >"$BUILD/server.log" 2>&1 ||
        { grep -E 'error' "$BUILD/server.log" | sort -u | head -n 20 >&2; fail "The server could not be built."; }
    done
    mv "$begun" "$BUILD/server.stamp"
  fi
}

# Whether something listens there on this machine.
in_use() { (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

# The first of so many ports on end where nothing does, from one on: another run, or what is left of one, keeps nothing from running.
free_ports() {
  local from=$1 count=$2 port
  for port in $(seq "$from" "$((from + count - 1))"); do
    if in_use "$port"; then
      free_ports "$((port + 1))" "$count"
      return
    fi
  done
  echo "$from"
}
