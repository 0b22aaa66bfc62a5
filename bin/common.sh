# Shared by bin/start and bin/test: what a fresh machine needs, and a private PostgreSQL cluster. Sourced, not run.
say() { printf '%s\n' "$*" >&2; }

as_root() { if [ "$(id -u)" = 0 ]; then "$@"; else sudo -n "$@"; fi; }

# Debian packages that are missing. PostgreSQL's own service cluster is neither wanted nor touched.
install_packages() {
  say "Installing Debian packages: $*"
  if [ ! -e /etc/postgresql-common ]; then
    as_root mkdir -p /etc/postgresql-common/createcluster.d
    echo 'create_main_cluster = false' | as_root tee /etc/postgresql-common/createcluster.d/presa.conf >/dev/null
  fi
  as_root apt-get update -qq >&2 || true
  as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@" >&2
}

pg_bin() { for dir in $(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -rV); do [ -x "$dir/initdb" ] && { echo "$dir"; return; }; done; return 1; }

need_postgres() { pg_bin >/dev/null || install_packages postgresql; }

need_node_modules() {
  if [ ! -e node_modules/.presa-stamp ] || ! cmp -s package-lock.json node_modules/.presa-stamp; then
    say "Installing packages (npm ci)"
    npm ci --no-audit --no-fund --loglevel=error >&2
    cp package-lock.json node_modules/.presa-stamp
  fi
}

free_port() { node -e 'const s=require("net").createServer();s.listen(0,"127.0.0.1",()=>{console.log(s.address().port);s.close()})'; }

# PostgreSQL does not run as root: then an unprivileged user owns and runs the cluster.
pg_user() { if [ "$(id -u)" = 0 ]; then echo postgres; else id -un; fi; }
as_pg() { if [ "$(id -u)" = 0 ]; then runuser -u "$(pg_user)" -- "$@"; else "$@"; fi; }

# pg_start DIR: creates the cluster if it is not there and starts it on a free loopback port; sets PG_PORT, PG_DIR.
pg_start() {
  PG_DIR="$1"
  mkdir -p "$PG_DIR"
  if [ "$(id -u)" = 0 ]; then
    chown "$(pg_user)" "$PG_DIR"
    if ! as_pg test -x "$PG_DIR"; then
      # The checkout lies where the unprivileged user may not go (a home folder, say).
      PG_DIR="/var/tmp/presa-$(printf %s "$1" | cksum | cut -d' ' -f1)"
      mkdir -p "$PG_DIR" && chown "$(pg_user)" "$PG_DIR"
    fi
  fi
  chmod 700 "$PG_DIR"
  local bin; bin="$(pg_bin)"
  [ -f "$PG_DIR/data/PG_VERSION" ] || (cd / && as_pg "$bin/initdb" -D "$PG_DIR/data" -U presa --auth=trust -E UTF8 --locale=C.UTF-8 -N >/dev/null)
  local running; running="$( (cd / && as_pg "$bin/pg_ctl" -D "$PG_DIR/data" status) 2>/dev/null | sed -n 's/.*(PID: \([0-9]*\)).*/\1/p')" || true
  if [ -n "$running" ]; then say "A PostgreSQL of this folder is running already (process $running); stop that bin/start first."; return 1; fi
  PG_PORT="$(free_port)"
  (cd / && as_pg "$bin/pg_ctl" -D "$PG_DIR/data" -w -s -l "$PG_DIR/log" -o "-h 127.0.0.1 -p $PG_PORT -k ''" start >/dev/null) || { say "PostgreSQL did not start:"; tail -5 "$PG_DIR/log" >&2; return 1; }
  PG_STARTED=1
  PGPORT=$PG_PORT psql_admin "select 1 from pg_database where datname='presa'" | grep -q 1 || PGPORT=$PG_PORT psql_admin "create database presa"
  export DATABASE_URL="postgres://presa@127.0.0.1:$PG_PORT/presa"
}

psql_admin() { "$(pg_bin)/psql" -h 127.0.0.1 -p "$PG_PORT" -U presa -d postgres -Atqc "$1"; }

pg_stop() { [ -n "${PG_STARTED:-}" ] && (cd / && as_pg "$(pg_bin)/pg_ctl" -D "$PG_DIR/data" -m fast -w -s stop) || true; }

session_secret() {
  local file="$1/secret"
  [ -s "$file" ] || (umask 077 && node -e 'console.log(require("crypto").randomBytes(32).toString("base64url"))' > "$file")
  cat "$file"
}

# Builds when a source changed since the last build.
build_if_changed() {
  local stamp; stamp="$(find app components contracts core server workers package-lock.json next.config.ts postcss.config.mjs tsconfig.json proxy.ts -type f ! -name '*.test.ts*' -print0 | sort -z | xargs -0 sha256sum | sha256sum | cut -c1-64)"
  if [ "$(cat .next/presa-stamp 2>/dev/null)" != "$stamp" ]; then
    say "Building"
    rm -rf .next/presa-stamp
    # Opening /dev/stderr anew would write over what stands there already, where it is a file.
    if [ -n "${BUILD_LOG:-}" ]; then NEXT_TELEMETRY_DISABLED=1 npx next build >"$BUILD_LOG" 2>&1 || { tail -60 "$BUILD_LOG" >&2; return 1; }
    else NEXT_TELEMETRY_DISABLED=1 npx next build >&2 || return 1; fi
    echo "$stamp" > .next/presa-stamp
  fi
}

# serve PORT: the web process and one worker; sets SERVER_PIDS.
serve() {
  SERVER_PIDS=()
  NODE_ENV=production NEXT_TELEMETRY_DISABLED=1 node node_modules/next/dist/bin/next start -H 127.0.0.1 -p "$1" >>"${SERVER_LOG:-/dev/stderr}" 2>&1 & SERVER_PIDS+=($!)
  NODE_ENV=production node --import tsx server/jobs/worker.ts >>"${SERVER_LOG:-/dev/stderr}" 2>&1 & SERVER_PIDS+=($!)
  for _ in $(seq 1 150); do
    if node -e "fetch('http://127.0.0.1:$1/sign-in').then(r=>process.exit(r.ok?0:1),()=>process.exit(1))"; then return 0; fi
    kill -0 "${SERVER_PIDS[0]}" 2>/dev/null || return 1
    sleep 0.2
  done
  return 1
}

# Asks first; after four seconds (a browser may hold a stream open) ends what is left.
stop_servers() {
  local pid
  for pid in "${SERVER_PIDS[@]:-}"; do [ -z "$pid" ] || kill "$pid" 2>/dev/null || true; done
  for _ in $(seq 1 40); do
    local alive=; for pid in "${SERVER_PIDS[@]:-}"; do [ -n "$pid" ] && kill -0 "$pid" 2>/dev/null && alive=1; done
    [ -n "$alive" ] || break
    sleep 0.1
  done
  for pid in "${SERVER_PIDS[@]:-}"; do [ -z "$pid" ] || kill -9 "$pid" 2>/dev/null || true; done
  SERVER_PIDS=()
}
