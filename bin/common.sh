# Shared by bin/start and bin/test: what a fresh machine needs, and a private PostgreSQL cluster and broker. Sourced, not run.
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

# Debian starts a broker of its own with the package, on port 1883 of loopback: neither wanted nor touched.
need_mosquitto() { mosquitto_bin >/dev/null || install_packages mosquitto; }
mosquitto_bin() { command -v mosquitto || { [ -x /usr/sbin/mosquitto ] && echo /usr/sbin/mosquitto; }; }

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

# own_folder DIR: makes a folder that belongs to the unprivileged user; prints where it is. Where the checkout lies out of that user's way (a home folder, say),
# it is elsewhere.
own_folder() {
  local dir="$1"
  mkdir -p "$dir"
  if [ "$(id -u)" = 0 ]; then
    chown "$(pg_user)" "$dir"
    as_pg test -x "$dir" || { dir="$(elsewhere "$1")"; mkdir -p "$dir"; chown "$(pg_user)" "$dir"; }
  fi
  chmod 700 "$dir"
  echo "$dir"
}
elsewhere() { echo "/var/tmp/presa-$(printf %s "$1" | cksum | cut -d' ' -f1)"; }

# pg_stop_left DIR: ends a cluster of this folder that nobody is there for any more.
pg_stop_left() {
  local bin dir running
  bin="$(pg_bin)"
  for dir in "$1/data" "$(elsewhere "$1")/data"; do
    running="$( (cd / && as_pg "$bin/pg_ctl" -D "$dir" status) 2>/dev/null | sed -n 's/.*(PID: \([0-9]*\)).*/\1/p')" || true
    [ -n "$running" ] || continue
    say "Stopping the PostgreSQL of this folder (process $running), left behind by a bin/start that was killed"
    (cd / && as_pg "$bin/pg_ctl" -D "$dir" -m fast -w -s stop) || return 1
  done
}

# pg_start DIR: creates the cluster if it is not there and starts it on a free loopback port; sets PG_PORT, PG_DIR.
pg_start() {
  PG_DIR="$(own_folder "$1")"
  local bin; bin="$(pg_bin)"
  [ -f "$PG_DIR/data/PG_VERSION" ] || (cd / && as_pg "$bin/initdb" -D "$PG_DIR/data" -U presa --auth=trust -E UTF8 --locale=C.UTF-8 -N >/dev/null)
  PG_PORT="$(free_port)"
  pg_again || { say "PostgreSQL did not start:"; tail -5 "$PG_DIR/log" >&2; return 1; }
  PG_STARTED=1
  PGPORT=$PG_PORT psql_admin "select 1 from pg_database where datname='presa'" | grep -q 1 || PGPORT=$PG_PORT psql_admin "create database presa"
  export DATABASE_URL="postgres://presa@127.0.0.1:$PG_PORT/presa"
}

# Starts the cluster of PG_DIR again on the port it had (PG_PORT).
pg_again() { (cd / && as_pg "$(pg_bin)/pg_ctl" -D "$PG_DIR/data" -w -s -l "$PG_DIR/log" -o "-h 127.0.0.1 -p $PG_PORT -k ''" start >/dev/null); }

psql_admin() { "$(pg_bin)/psql" -h 127.0.0.1 -p "$PG_PORT" -U presa -d postgres -Atqc "$1"; }

pg_stop() { [ -n "${PG_STARTED:-}" ] && (cd / && as_pg "$(pg_bin)/pg_ctl" -D "$PG_DIR/data" -m fast -w -s stop) || true; }

# broker_prepare DIR: what the broker for gateways needs, on a loopback port that stays the same as long as it is free; sets BROKER_DIR, MQTT_URL.
broker_prepare() {
  BROKER_DIR="$(own_folder "$1")"
  local port plugin
  port="$(cat "$BROKER_DIR/port" 2>/dev/null)" || true
  if [ -z "$port" ] || taken "$port"; then
    [ -z "$port" ] || say "Port $port, where the broker was, is taken by another program: gateways outside this folder have to be told the new one."
    port="$(free_port)"
  fi
  plugin="$(ls /usr/lib/*/mosquitto_dynamic_security.so /usr/lib/mosquitto_dynamic_security.so 2>/dev/null | head -1)"
  [ -n "$plugin" ] || { say "mosquitto's dynamic security is missing; Debian's package mosquitto has it."; return 1; }
  if [ ! -s "$BROKER_DIR/accounts.json" ]; then
    (umask 077; node -e 'console.log(require("crypto").randomBytes(24).toString("base64url"))' > "$BROKER_DIR/password"
      node tools/broker-file.mjs presa < "$BROKER_DIR/password" > "$BROKER_DIR/accounts.json") || return 1
  fi
  echo "$port" > "$BROKER_DIR/port"
  cat > "$BROKER_DIR/mosquitto.conf" <<CONF
# Written at each start. A broker elsewhere wants the same, and TLS (README, "Running it for real").
listener $port 127.0.0.1
allow_anonymous false
plugin $plugin
plugin_opt_config_file $BROKER_DIR/accounts.json
persistence true
persistence_location $BROKER_DIR/
message_size_limit 16777216
max_inflight_messages 1000
max_queued_messages 20000
log_dest stderr
pid_file $BROKER_DIR/pid
CONF
  [ "$(id -u)" != 0 ] || chown -R "$(pg_user)" "$BROKER_DIR"
  MQTT_URL="mqtt://presa:$(cat "$BROKER_DIR/password")@127.0.0.1:$port"; export MQTT_URL
}
start_broker() { (cd / && exec_as_pg "$(mosquitto_bin)" -c "$BROKER_DIR/mosquitto.conf") >>"${BROKER_LOG:-/dev/null}" 2>&1 & }
# Becomes that user's program, so that ending this process ends it.
exec_as_pg() { if [ "$(id -u)" = 0 ]; then exec setpriv --reuid="$(pg_user)" --regid="$(pg_user)" --init-groups "$@"; else exec "$@"; fi; }
# Starts the broker of BROKER_DIR again, on its own.
broker_again() { (start_broker; disown) </dev/null; }
# broker_start DIR: starts it and waits until it answers.
broker_start() {
  broker_prepare "$1" || return 1
  begin broker; local broker=$!
  for _ in $(seq 1 50); do
    taken "$(cat "$BROKER_DIR/port")" && return 0
    kill -0 "$broker" 2>/dev/null || break
    sleep 0.1
  done
  say "The broker for gateways did not start:"; tail -5 "${BROKER_LOG:-/dev/null}" >&2
  return 1
}
taken() { node -e "const s=require('net').createServer();s.once('error',()=>process.exit(0));s.listen($1,'127.0.0.1',()=>s.close(()=>process.exit(1)))"; }

session_secret() {
  local file="$1/secret"
  [ -s "$file" ] || (umask 077 && node -e 'console.log(require("crypto").randomBytes(32).toString("base64url"))' > "$file")
  cat "$file"
}

# catcher_start: a mail catcher on free loopback ports, where no mail server is set; sets PRESA_SMTP_URL and CATCHER_PAGE.
start_catcher() { node --import tsx catcher/main.ts --smtp "$CATCHER_PORT" --page "$CATCHER_PAGE_PORT" >>"${CATCHER_LOG:-/dev/null}" 2>&1 & }
catcher_start() {
  [ -z "${PRESA_SMTP_URL:-}" ] || return 0
  CATCHER_PORT="$(free_port)"; CATCHER_PAGE_PORT="$(free_port)"
  begin catcher
  export PRESA_SMTP_URL="smtp://127.0.0.1:$CATCHER_PORT" CATCHER_PAGE="http://127.0.0.1:$CATCHER_PAGE_PORT"
}

# Builds when a source changed since the last build.
build_if_changed() {
  local stamp; stamp="$(find app components contracts core messages paper public/icons server workers tools/service-worker.mjs package-lock.json next.config.ts postcss.config.mjs tsconfig.json proxy.ts instrumentation.ts -type f ! -name '*.test.ts*' -print0 | sort -z | xargs -0 sha256sum | sha256sum | cut -c1-64)"
  if [ "$(cat .next/presa-stamp 2>/dev/null)" != "$stamp" ] || [ ! -e public/service-worker.js ]; then
    say "Building"
    rm -rf .next/presa-stamp
    # Opening /dev/stderr anew would write over what stands there already, where it is a file.
    if [ -n "${BUILD_LOG:-}" ]; then NEXT_TELEMETRY_DISABLED=1 npm run --silent build >"$BUILD_LOG" 2>&1 || { tail -60 "$BUILD_LOG" >&2; return 1; }
    else NEXT_TELEMETRY_DISABLED=1 npm run --silent build >&2 || return 1; fi
    echo "$stamp" > .next/presa-stamp
  fi
}

# Logs grow to 10 MB; five older ones are kept of each. They are written by appending, so one can be emptied under its writer.
start_logs() {
  while sleep 60; do
    for log in .presa/*.log; do
      [ -f "$log" ] && [ "$(stat -c %s "$log")" -gt 10000000 ] || continue
      for n in 4 3 2 1; do [ ! -f "$log.$n" ] || mv "$log.$n" "$log.$((n + 1))"; done
      cp "$log" "$log.1" && : > "$log"
    done
  done &
}
start_web() { NODE_ENV=production NEXT_TELEMETRY_DISABLED=1 node node_modules/next/dist/bin/next start -H 127.0.0.1 -p "$SERVER_PORT" >>"${SERVER_LOG:-/dev/stderr}" 2>&1 & }
start_worker() { NODE_ENV=production node --import tsx server/jobs/worker.ts >>"${SERVER_LOG:-/dev/stderr}" 2>&1 & }

# What this run started, in step with each other: stop_servers ends it, keep keeps it up.
SERVER_PIDS=(); SERVER_NAMES=()
begin() { "start_$1" "${@:2}"; SERVER_PIDS+=($!); SERVER_NAMES+=("$1"); }

# serve PORT: the web process and one worker.
serve() {
  SERVER_PORT="$1"
  begin web; local web=$!
  begin worker
  for _ in $(seq 1 150); do
    if node -e "fetch('http://127.0.0.1:$1/sign-in').then(r=>process.exit(r.ok?0:1),()=>process.exit(1))"; then return 0; fi
    kill -0 "$web" 2>/dev/null || return 1
    sleep 0.2
  done
  return 1
}

# keep: for as long as this runs, whatever ends by itself is started again (start_NAME of SERVER_NAMES), later and later while it does not stay up.
keep() {
  local i since=() ends=()
  for i in "${!SERVER_PIDS[@]}"; do since[i]=$SECONDS; ends[i]=0; done
  while :; do
    wait -n "${SERVER_PIDS[@]}" || true
    for i in "${!SERVER_PIDS[@]}"; do
      kill -0 "${SERVER_PIDS[$i]}" 2>/dev/null && continue
      [ $((SECONDS - since[i])) -lt 60 ] || ends[i]=0
      ends[i]=$((ends[i] + 1))
      [ "${ends[i]}" -gt 5 ] || say "$(date +%T) the ${SERVER_NAMES[$i]} process ended and is started again; see .presa/${SERVER_NAMES[$i]/#w*/server}.log"
      sleep $((ends[i] < 15 ? ends[i] : 15))
      "start_${SERVER_NAMES[$i]}"; SERVER_PIDS[i]=$!; since[i]=$SECONDS
      note_running
    done
  done
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
  SERVER_PIDS=(); SERVER_NAMES=()
}

# Where bin/start notes what it runs: its own process on the first line, then each of its processes, with the instant each began (so that a process that has the
# same number later is not taken for it).
RUNNING=.presa/running
began() { sed 's/.*) //' "/proc/$1/stat" 2>/dev/null | cut -d' ' -f20; }
note_running() {
  local pid
  for pid in "$$" ${SERVER_PIDS[@]+"${SERVER_PIDS[@]}"}; do echo "$pid $(began "$pid")"; done > "$RUNNING"
}
# Ends what a bin/start that was killed outright left behind; refuses where that bin/start lives.
stop_orphans() {
  [ -s "$RUNNING" ] || return 0
  local pid at first=1
  while read -r pid at; do
    [ -n "$at" ] && [ "$(began "$pid")" = "$at" ] || { first=; continue; }
    if [ -n "$first" ]; then say "Presa runs from this folder already (process $pid); stop that bin/start first."; return 1; fi
    say "Stopping process $pid, left behind by a bin/start that was killed"
    kill "$pid" 2>/dev/null
    for _ in $(seq 1 40); do kill -0 "$pid" 2>/dev/null || break; sleep 0.1; done
    kill -9 "$pid" 2>/dev/null || true
  done < "$RUNNING"
  rm -f "$RUNNING"
}
