# What bin/start and bin/test share. Sourced, not run.
# Everything here can be run again, and by two at once, without harm.

# The folder from which the script was called: it went to the product's own before it took these functions in.
called_from=${OLDPWD:-$PWD}
path_of() { (cd "$called_from" && readlink -m -- "$1"); } # PATH: as whoever called the script means it
say() { printf '%s\n' "$*"; }
fail() { printf '\n%s\n' "$*" >&2; exit 1; }

need_node() {
  command -v node >/dev/null 2>&1 || fail "Node.js is missing. Install Node 20.19 or later, then run this again."
  node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)' ||
    fail "Node $(node --version) is too old. Iron Fork needs Node 20.19 or later; install that, then run this again."
  command -v npm >/dev/null 2>&1 || fail "npm is missing. It comes with Node.js; install it, then run this again."
}

# Whether DIR has at least MB megabytes free.
need_space() { # DIR MB
  local free
  free=$(df -Pm "$1" 2>/dev/null | awk 'NR == 2 { print $4 }')
  [ -z "$free" ] || [ "$free" -ge "$2" ] ||
    fail "The disk is full: $1 has $free MB free, and $2 MB are needed. Free some space, then run this again."
}

# Installs Debian packages, as root or through sudo.
install_packages() { # WHAT-FOR PACKAGE...
  local what=$1 as=()
  shift
  if [ "$(id -u)" -ne 0 ]; then
    if command -v sudo >/dev/null 2>&1 && { sudo -n true 2>/dev/null || [ -t 0 ]; }; then as=(sudo)
    else fail "$what is not installed, and installing it needs root. As root: apt-get install $*"; fi
  fi
  command -v apt-get >/dev/null 2>&1 || fail "$what is not installed, and this system has no apt-get. Install it: $*"
  say "Installing $what ($*) from Debian's packages …"
  need_space /var 400
  local log
  log=$(mktemp)
  if ! { "${as[@]}" apt-get update && "${as[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends "$@"; } >"$log" 2>&1; then
    tail -n 5 "$log" >&2
    fail "Installing $what failed; apt-get's last words are above."
  fi
  rm -f "$log"
}

# The folder of the newest PostgreSQL server's programs; empty without one.
postgres_bin() {
  ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | while read -r dir; do [ -x "$dir/initdb" ] && echo "$dir"; done | tail -n 1
}

need_postgres() {
  [ -n "$(postgres_bin)" ] || install_packages "PostgreSQL" postgresql
  PG=$(postgres_bin)
  [ -n "$PG" ] || fail "PostgreSQL was installed, but its server is not in /usr/lib/postgresql. Set DATABASE_URL to use a server elsewhere."
}

# Sets CHROMIUM to Debian's Chromium, preferring the headless package because it starts faster.
need_chromium() {
  local program
  for program in chromium-headless-shell chromium; do
    CHROMIUM=$(command -v "$program" || true)
    [ -z "$CHROMIUM" ] || break
  done
  if [ -z "$CHROMIUM" ]; then
    (install_packages "Chromium" chromium-headless-shell) || install_packages "Chromium" chromium
    CHROMIUM=$(command -v chromium-headless-shell || command -v chromium)
  fi
  export CHROMIUM
}

# Installs servers without starting them: nothing that a test needs may begin to listen on this machine.
install_idle() { # WHAT-FOR PACKAGE...
  local policy=/usr/sbin/policy-rc.d made=
  if [ ! -e "$policy" ]; then
    printf '#!/bin/sh\nexit 101\n' >"$policy" && chmod 755 "$policy" && made=1
  fi
  (install_packages "$@")
  local rc=$?
  [ -z "$made" ] || rm -f "$policy"
  return $rc
}

# What a lab is built with: namespaces, filters, pings.
need_kernel() {
  command -v ip >/dev/null 2>&1 && command -v ping >/dev/null 2>&1 && command -v sysctl >/dev/null 2>&1 ||
    install_packages "ip, ping and sysctl" iproute2 iputils-ping procps
  command -v nft >/dev/null 2>&1 || install_idle "nft" nftables
}

# The same, with servers in its devices.
need_lab() {
  need_kernel
  command -v snmpd >/dev/null 2>&1 && command -v lldpd >/dev/null 2>&1 && [ -x /usr/sbin/sshd ] && command -v ssh-keygen >/dev/null 2>&1 ||
    install_idle "servers for the devices of a lab" snmpd lldpd openssh-server openssh-client
}

# Runs a program from its sources in the folder HERE, which relative arguments refer to.
run_source() { # HERE PROGRAM ARGUMENT...
  local here=$1 program loader
  program=$(pwd)/$2
  loader=$(pwd)/node_modules/tsx/dist/loader.mjs
  shift 2
  cd "$here"
  exec node --import "$loader" "$program" "$@"
}

# Locks for the rest of the subshell: one set-up at a time in this checkout.
setup_lock() {
  mkdir -p .data
  exec 9>.data/setup.lock
  flock 9
}

need_modules() {
  (
    setup_lock
    local wanted
    wanted=$(cat package.json package-lock.json | sha256sum | cut -c1-64)
    [ "$(cat node_modules/.iron-fork-packages 2>/dev/null)" = "$wanted" ] && exit 0
    need_space . 800
    say "Installing packages (npm ci) …"
    npm ci --no-audit --no-fund --loglevel=error >.data/npm.log 2>&1 || { tail -n 12 .data/npm.log >&2; fail "npm ci failed; its last words are above."; }
    echo "$wanted" >node_modules/.iron-fork-packages
  ) || exit 1
}

need_build() {
  (
    setup_lock
    local wanted
    wanted=$(find app core exchange live lab server worker demo bin package.json package-lock.json vite.config.ts react-router.config.ts -type f ! -name '*.test.ts*' -print0 | sort -z | xargs -0 sha256sum | sha256sum | cut -c1-64)
    [ "$(cat build/.iron-fork-sources 2>/dev/null)" = "$wanted" ] && exit 0
    say "Building …"
    npm run --silent build >.data/build.log 2>&1 || { tail -n 25 .data/build.log >&2; fail "The build failed; its last words are above."; }
    echo "$wanted" >build/.iron-fork-sources
  ) || exit 1
}

port_free() { # PORT [HOST]
  node -e '
    const server = require("node:net").createServer();
    server.once("error", () => process.exit(1));
    server.listen(Number(process.argv[1]), process.argv[2] ?? "127.0.0.1", () => server.close(() => process.exit(0)));
  ' "$@"
}

free_port() { # FROM
  local port=$1
  until port_free "$port"; do port=$((port + 1)); done
  echo "$port"
}

# Runs a database program as the user that owns the data: the server refuses to run as root.
as_database_user() {
  if [ "$(id -u)" -eq 0 ]; then (cd / && runuser -u postgres -- "$@"); else "$@"; fi
}

# Starts the cluster in DIR, creating it if necessary, and sets DATABASE_URL.
start_cluster() { # DIR
  local dir=$1 port log=$1/server.log
  mkdir -p "$dir"
  chmod 700 "$dir"
  [ "$(id -u)" -ne 0 ] || chown postgres: "$dir"
  need_space "$dir" 200
  # Made aside and put in place at once, so that one that was stopped half-way is made anew.
  if [ ! -s "$dir/data/PG_VERSION" ]; then
    say "Creating a database in $dir …"
    rm -rf "$dir/data" "$dir/making"
    (umask 077 && head -c 24 /dev/urandom | od -An -tx1 | tr -d ' \n' >"$dir/password")
    [ "$(id -u)" -ne 0 ] || chown postgres: "$dir/password"
    as_database_user "$PG/initdb" -D "$dir/making" -U iron_fork --auth=scram-sha-256 --pwfile="$dir/password" -E UTF8 --locale=C.UTF-8 >"$dir/initdb.log" 2>&1 ||
      { tail -n 5 "$dir/initdb.log" >&2; rm -rf "$dir/making"; fail "The database could not be made; the last words of initdb are above."; }
    mv "$dir/making" "$dir/data"
  fi
  if [ "$(cat "$dir/data/PG_VERSION")" != "$(basename "$(dirname "$PG")")" ]; then
    PG=/usr/lib/postgresql/$(cat "$dir/data/PG_VERSION")/bin
    [ -x "$PG/postgres" ] || fail "The database in $dir was made by PostgreSQL $(cat "$dir/data/PG_VERSION"), which is no longer installed. Install it again: apt-get install postgresql-$(cat "$dir/data/PG_VERSION")"
  fi
  if running_cluster "$dir"; then
    port=$(sed -n 4p "$dir/data/postmaster.pid")
    # A cluster started by another process runs before it listens, and may still be stopped.
    for _ in $(seq 600); do
      ! "$PG/pg_isready" -q -h 127.0.0.1 -p "$port" || break
      running_cluster "$dir" || break
      sleep 0.1
    done
  fi
  if ! running_cluster "$dir"; then
    # Reuses the previous port if free, so that clients find it again. Never a port from 32768 on: the system assigns
    # those to connections, and a client that retries its own port while nothing listens can connect to itself
    # permanently.
    port=$(cat "$dir/port" 2>/dev/null || true)
    [ "${port:-32768}" -lt 32768 ] && port_free "$port" || port=$(free_port "${CLUSTER_PORT:-24820}")
    echo "$port" >"$dir/port"
    as_database_user "$PG/pg_ctl" -D "$dir/data" -l "$log" -w -t 60 \
      -o "-p $port -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c max_connections=200" start >/dev/null 2>&1 7>&- 8>&- 9>&- ||
      { tail -n 5 "$log" >&2; fail "The database did not come up; its last words are above, all of them in $log."; }
  fi
  make_roles "$dir" "$port"
}

# Creates missing database roles, and sets DATABASE_URL (read and write rows), DATABASE_OWNER_URL (migrate) and
# DATABASE_SUPERUSER_URL (create databases, for tests). Passwords are in files readable by their owner only, and on no
# command line.
make_roles() { # DIR PORT
  local dir=$1 port=$2 super owner data at
  super=$(cat "$dir/password")
  [ -s "$dir/roles" ] || (
    umask 077
    for _ in 1 2; do head -c 24 /dev/urandom | od -An -tx1 | tr -d ' \n' && echo; done >"$dir/roles.making"
    mv "$dir/roles.making" "$dir/roles"
  )
  { read -r owner && read -r data; } <"$dir/roles"
  (umask 077 && printf '127.0.0.1:*:*:%s\n' "iron_fork:$super" "iron_fork_owner:$owner" "iron_fork_data:$data" >"$dir/pgpass")
  OWNER_PASSWORD=$owner DATA_PASSWORD=$data PGPASSFILE=$dir/pgpass "$PG/psql" --quiet --no-psqlrc --tuples-only \
    --dbname="postgres://iron_fork@127.0.0.1:$port/postgres" --file=db/roles.sql >/dev/null ||
    fail "The roles of the database could not be made; the reason is above."
  at=127.0.0.1:$port/postgres
  export DATABASE_URL="postgres://iron_fork_data:$data@$at" DATABASE_OWNER_URL="postgres://iron_fork_owner:$owner@$at"
  DATABASE_SUPERUSER_URL="postgres://iron_fork:$super@$at"
}

# Sets PGPASSFILE and database, by which PostgreSQL's own programs reach the database as its owner: the password goes
# into a file in FOLDER.
as_owner() { # FOLDER
  export PGPASSFILE=$1/pgpass
  database=$(cd "$1" && umask 077 && URL=${DATABASE_OWNER_URL:-$DATABASE_URL} node -e '
    const url = new URL(process.env.URL);
    const plain = (text) => decodeURIComponent(text).replace(/[\\:]/g, "\\$&");
    const fields = [url.hostname.replace(/^\[|\]$/g, ""), url.port || "5432", "*", plain(url.username), plain(url.password)];
    require("node:fs").writeFileSync("pgpass", fields.join(":") + "\n", { mode: 0o600 });
    url.password = "";
    console.log(url.href);
  ')
}

# Sets IRON_FORK_KEY_FILE to the key that encrypts credentials, creating it in DIR if missing.
need_key() { # DIR
  export IRON_FORK_KEY_FILE=${IRON_FORK_KEY_FILE:-$(readlink -m "$1/credential.key")}
  [ -s "$IRON_FORK_KEY_FILE" ] || [ -n "${IRON_FORK_KEY:-}" ] || (
    umask 077
    mkdir -p "$(dirname "$IRON_FORK_KEY_FILE")"
    head -c 32 /dev/urandom | od -An -tx1 | tr -d ' \n' >"$IRON_FORK_KEY_FILE.making"
    mv "$IRON_FORK_KEY_FILE.making" "$IRON_FORK_KEY_FILE"
  )
}

running_cluster() { # DIR
  as_database_user "$PG/pg_ctl" -D "$1/data" status >/dev/null 2>&1
}

stop_cluster() { # DIR
  as_database_user "$PG/pg_ctl" -D "$1/data" -m fast -w -t 30 stop >/dev/null 2>&1 || true
}

# Sets DATABASE_URL to the database of this checkout, starting it for as long as the script runs; unless it is given.
need_database() {
  [ -z "${DATABASE_URL:-}" ] || return 0
  local dir=.data/database
  [ "$(id -u)" -ne 0 ] || dir=/var/lib/iron-fork/$(pwd | sha256sum | cut -c1-12)
  dir=$(readlink -m "${IRON_FORK_DATA:-$dir}")
  [ -s "$dir/data/PG_VERSION" ] || fail "There is no database in $dir yet. Run bin/start once, or name one by DATABASE_URL."
  exec 7>"$dir/start.lock" 8>"$dir/users.lock"
  flock 7
  start_cluster "$dir"
  flock -s 8
  exec 7>&-
  DATABASE_DIR=$dir
}

# Stops the database if no other process uses it.
leave_database() {
  [ -n "${DATABASE_DIR:-}" ] || return 0
  if flock -n -x 8; then stop_cluster "$DATABASE_DIR"; fi
}
