# Shared by ./demo, ./test and bench/run: what the machine needs, a PostgreSQL cluster of our own, and cleaning up.
# Source it from the project's root.

say() { printf '%s\n' "· $*"; }
fail() { printf '%s\n' "✗ $*" >&2; exit 1; }

as_root() { if [ "$(id -u)" = 0 ]; then "$@"; elif command -v sudo >/dev/null; then sudo -n "$@"; else return 1; fi; }

apt_install() { # what-for package...
  local what=$1; shift
  command -v apt-get >/dev/null || fail "$what is missing and there is no apt-get here. Install $* by hand and run this again."
  say "installing $what from Debian's packages ($*)"
  { as_root apt-get update -q && as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends "$@"; } >"$STATE/apt.log" 2>&1 ||
    fail "$what could not be installed. Run 'apt-get install $*' as root and try again; what apt said is in $STATE/apt.log."
}

need_tools() {
  command -v dotnet >/dev/null || fail "The .NET SDK is missing. Install .NET 10 (see global.json for the version) and run this again."
  command -v node >/dev/null || fail "Node.js is missing. Install Node 20 or later and run this again."
  command -v curl >/dev/null || apt_install curl curl
}

pg_bin() { ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1; }

need_postgres() {
  # Debian would start a cluster of its own at once; ours is enough.
  if [ -z "$(pg_bin)" ] || [ ! -x "$(pg_bin)/initdb" ]; then
    as_root mkdir -p /etc/postgresql-common && echo 'create_main_cluster = false' | as_root tee /etc/postgresql-common/createcluster.conf >/dev/null || true
    apt_install PostgreSQL postgresql
  fi
  PGBIN=$(pg_bin)
  [ -x "$PGBIN/initdb" ] || fail "PostgreSQL was installed but its initdb is not in /usr/lib/postgresql. Look at $STATE/apt.log."
}

# The build without a window costs half as much a page; the whole one does where it cannot be had.
need_browser() {
  local small=/usr/bin/chromium-headless-shell whole=/usr/bin/chromium
  [ -x $small ] || (apt_install "Chromium without a window" chromium-headless-shell) || [ -x $whole ] || fail "There is no Chromium. Install chromium by hand and run this again."
  CHROMIUM=$whole; [ ! -x $small ] || CHROMIUM=$small
  export CHROMIUM
}

# PostgreSQL refuses to run as root: then the account of Debian's package runs it.
as_pg() { if [ "$(id -u)" = 0 ]; then (cd / && runuser -u postgres -- "$@"); else "$@"; fi; }

port_free() { ! (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

free_port() { # from
  local port=$1
  while ! port_free "$port"; do port=$((port + 1)); [ "$port" -lt 65000 ] || fail "No free port above $1."; done
  echo "$port"
}

# Makes and starts the cluster in $PG_DATA ($STATE/pg where it is not set). Sets PGPORT, PGPASSWORD, DB_URL.
cluster_start() { # extra postgres options...
  need_postgres
  PG_DATA=${PG_DATA:-$STATE/pg}
  local data=$PG_DATA
  if [ ! -s "$STATE/pg.secret" ]; then (umask 077; head -c 24 /dev/urandom | base64 | tr -dc 'A-Za-z0-9' >"$STATE/pg.secret"); fi
  PGPASSWORD=$(cat "$STATE/pg.secret"); export PGPASSWORD
  if [ ! -s "$data/PG_VERSION" ]; then
    say "making a PostgreSQL cluster in $data"
    rm -rf "$data"; mkdir -p "$data"; chmod 700 "$data"
    if [ "$(id -u)" = 0 ]; then
      chown postgres: "$data"
      runuser -u postgres -- test -x "$data" || fail "The account 'postgres' cannot reach $data. Check out the project somewhere every account can enter, such as /srv or /tmp."
      install -o postgres -m 600 "$STATE/pg.secret" "/tmp/litfuse-pw.$$"
    else
      install -m 600 "$STATE/pg.secret" "/tmp/litfuse-pw.$$"
    fi
    as_pg "$PGBIN/initdb" -D "$data" -U litfuse --auth=scram-sha-256 --pwfile="/tmp/litfuse-pw.$$" -E UTF8 --locale=C.UTF-8 >"$STATE/initdb.log" 2>&1 || { rm -f "/tmp/litfuse-pw.$$"; rm -rf "$data"; fail "initdb failed; what it said is in $STATE/initdb.log."; }
    rm -f "/tmp/litfuse-pw.$$"
  fi
  if as_pg "$PGBIN/pg_ctl" -D "$data" status >/dev/null 2>&1; then
    PGPORT=$(sed -n 4p "$data/postmaster.pid"); CLUSTER_OURS=
    say "PostgreSQL runs already on port $PGPORT"
  else
    PGPORT=$(free_port "${LITFUSE_PGPORT:-54320}")
    say "starting PostgreSQL on 127.0.0.1:$PGPORT"
    : >"$STATE/pg.log"; chmod 666 "$STATE/pg.log"
    as_pg "$PGBIN/pg_ctl" -D "$data" -w -t 60 -l "$STATE/pg.log" -o "-p $PGPORT -c listen_addresses=127.0.0.1 -c unix_socket_directories= -c max_connections=200 $*" start >/dev/null ||
      fail "PostgreSQL did not start; what it said is in $STATE/pg.log. If the cluster is damaged, './demo --reset' makes a new one."
    CLUSTER_OURS=1
  fi
  export PGPORT
  DB_URL="Host=127.0.0.1;Port=$PGPORT;Username=litfuse;Password=$PGPASSWORD;Include Error Detail=true"
}

cluster_stop() {
  [ -n "${CLUSTER_OURS:-}" ] || return 0
  as_pg "$PGBIN/pg_ctl" -D "$PG_DATA" -w -m fast stop >/dev/null 2>&1
}

sql() { "$PGBIN/psql" -X -q -h 127.0.0.1 -U litfuse -v ON_ERROR_STOP=1 "$@"; }

# True when what the step is made from has not changed since it last succeeded.
unchanged() { # name path...
  local name=$1; shift
  find "$@" -type f -not -path '*/node_modules/*' -printf '%p %s %T@\n' 2>/dev/null | sort | sha256sum >"$STATE/$name.now"
  cmp -s "$STATE/$name.now" "$STATE/$name.stamp"
}
done_with() { mv "$STATE/$1.now" "$STATE/$1.stamp"; }

npm_packages() {
  [ -d node_modules ] && unchanged npm package-lock.json && return 0
  say "fetching the front end's packages"
  PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD=1 npm ci --no-audit --no-fund >"$STATE/npm.log" 2>&1 || fail "npm ci failed; what it said is in $STATE/npm.log."
  unchanged npm package-lock.json || done_with npm
}

build_all() {
  npm_packages
  if [ ! -s artifacts/web/index.html ] || ! unchanged web web vite.config.ts package-lock.json; then
    say "building the front end"
    npx --no-install vite build >"$STATE/vite.log" 2>&1 || fail "The front end did not build; what Vite said is in $STATE/vite.log."
    unchanged web web vite.config.ts package-lock.json || done_with web
  fi
  if [ ! -x artifacts/bin/LitFuse.Server/release/LitFuse.Server ] || ! unchanged server src Directory.Build.props Directory.Packages.props global.json; then
    say "building the server and the Backlot"
    for project in LitFuse.Server LitFuse.Backlot; do
      dotnet build "src/$project" -c Release -v q -nologo --property:OpenApiGenerateDocumentsOnBuild=false >"$STATE/build.log" 2>&1 || fail "$project did not build; what the compiler said is in $STATE/build.log."
    done
    unchanged server src Directory.Build.props Directory.Packages.props global.json || done_with server
  fi
}

wait_for() { # url seconds pid name
  local tries=$(($2 * 10))
  until curl -fs -o /dev/null "$1"; do
    kill -0 "$3" 2>/dev/null || fail "$4 stopped while starting; see above."
    tries=$((tries - 1)); [ $tries -gt 0 ] || fail "$4 did not answer at $1 within $2 s."
    sleep 0.1
  done
}

stop_pid() { # pid
  [ -n "$1" ] || return 0
  kill -TERM "$1" 2>/dev/null || return 0
  for _ in $(seq 1 150); do kill -0 "$1" 2>/dev/null || return 0; sleep 0.1; done
  kill -KILL "$1" 2>/dev/null
}
