# Shared by start.sh and test.sh: Debian packages, npm packages, a PostgreSQL cluster of our own.
# Sourced, not run. Expects ROOT.

say() { printf '%s\n' "$*" >&2; }
fail() { say "$*"; exit 1; }

PG_BIN=$(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1 || true)

# need_packages PROGRAM=PACKAGE …: installs what is missing as root, else says what to install.
need_packages() {
  local missing=() pair
  for pair in "$@"; do
    case ${pair%%=*} in
      initdb) [ -n "$PG_BIN" ] && [ -x "$PG_BIN/initdb" ] || missing+=("${pair#*=}") ;;
      *) command -v "${pair%%=*}" >/dev/null || missing+=("${pair#*=}") ;;
    esac
  done
  [ ${#missing[@]} -eq 0 ] && return 0
  if [ "$(id -u)" != 0 ] || ! command -v apt-get >/dev/null; then
    fail "These Debian packages are missing: ${missing[*]}
Install them as root, then start again:  apt-get install ${missing[*]}"
  fi
  say "Installing from Debian: ${missing[*]}"
  # The database package would start a server of its own; ours is private.
  mkdir -p /etc/postgresql-common
  [ -e /etc/postgresql-common/createcluster.conf ] || echo 'create_main_cluster = false' >/etc/postgresql-common/createcluster.conf
  apt-get -o DPkg::Lock::Timeout=300 -qq update
  DEBIAN_FRONTEND=noninteractive apt-get -o DPkg::Lock::Timeout=300 -qq -y install --no-install-recommends "${missing[@]}" >/dev/null
  PG_BIN=$(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1 || true)
}

need_node() {
  command -v node >/dev/null || fail "Node.js 20.10 or newer is needed."
  node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 10) ? 0 : 1)' ||
    fail "Node.js 20.10 or newer is needed. This is $(node -v)."
}

# Installs npm packages when the lock file has changed since the last time.
npm_packages() {
  local stamp="$ROOT/node_modules/.installed"
  if [ ! -e "$stamp" ] || ! cmp -s "$ROOT/package-lock.json" "$stamp"; then
    say "Installing npm packages…"
    (cd "$ROOT" && npm ci --no-audit --no-fund --loglevel=error >&2)
    cp "$ROOT/package-lock.json" "$stamp"
  fi
}

# need_portrait FILE: the sample portrait of scikit-image (public domain), taken out of Debian's package without installing that.
need_portrait() {
  local target=$1 inside=usr/lib/python3/dist-packages/skimage/data/astronaut.png folder
  [ -e "$target" ] && return 0
  folder=$(mktemp -d)
  mkdir -p "$(dirname "$target")"
  if [ -e "/$inside" ]; then
    cp "/$inside" "$folder/portrait"
  else
    say "Fetching a portrait from Debian's package python3-skimage"
    # Not as user _apt, who may not write here.
    local fetch=(apt-get -q -o APT::Sandbox::User=root -o DPkg::Lock::Timeout=300)
    (cd "$folder" && { "${fetch[@]}" download python3-skimage || { "${fetch[@]}" update && "${fetch[@]}" download python3-skimage; }; } >/dev/null 2>&1) ||
      fail "Debian's package python3-skimage could not be fetched: tests of faces need the portrait in it.
Fetch it where there is a network, and run the tests again: the portrait goes to $target."
    dpkg-deb --fsys-tarfile "$folder"/python3-skimage_*.deb | tar -xO "./$inside" >"$folder/portrait"
  fi
  mv "$folder/portrait" "$target"
  rm -r "$folder"
}

# PostgreSQL refuses to run as root: then it runs as Debian's user postgres.
as_pg() { if [ "$(id -u)" = 0 ]; then runuser -u postgres -- env -C / LC_ALL=C.UTF-8 "$@"; else env -C / LC_ALL=C.UTF-8 "$@"; fi; }

# The lock on the data folder, held by whoever runs on it, for as long as it lives: the kernel lets go of it, however that ends.
hold_data_folder() {
  exec 9>>"$FILLAGRANT_DATA/lock"
  flock -n 9 && return 0
  fail "Fillagrant runs on $FILLAGRANT_DATA already: $(sed -n 2p "$FILLAGRANT_DATA/running" 2>/dev/null), process $(sed -n 1p "$FILLAGRANT_DATA/running" 2>/dev/null).
Stop it first, or start with another FILLAGRANT_DATA."
}

free_port() {
  local port=$1
  while (exec 3<>"/dev/tcp/127.0.0.1/$port") 2>/dev/null; do port=$((port + 1)); done
  echo "$port"
}

# pg_place FOLDER: where the cluster of a data folder lies; elsewhere when user postgres cannot get in.
pg_place() {
  local folder=$1
  mkdir -p "$folder"
  if [ "$(id -u)" = 0 ] && ! runuser -u postgres -- test -x "$folder"; then
    folder="/var/lib/fillagrant/$(printf '%s' "$folder" | sha256sum | cut -c1-12)"
    mkdir -p "$folder"
    chmod 755 /var/lib/fillagrant "$folder"
  fi
  echo "$folder/postgres"
}

# pg_create PLACE: a cluster with a password of its own, reachable on loopback only.
pg_create() {
  local place=$1
  [ -e "$place/PG_VERSION" ] && return 0
  say "Creating the database in $place"
  local secret
  secret=$(head -c 24 /dev/urandom | od -An -tx1 | tr -d ' \n')
  mkdir -p "$place"
  printf '%s' "$secret" >"$place.secret"
  chmod 600 "$place.secret"
  sync "$place.secret" "$(dirname "$place")" # without it nobody gets in, should the power fail
  [ "$(id -u)" = 0 ] && chown postgres: "$place" "$place.secret"
  chmod 700 "$place"
  as_pg "$PG_BIN/initdb" -D "$place" -U fillagrant --auth=scram-sha-256 --pwfile="$place.secret" --encoding=UTF8 --locale=C.UTF-8 >/dev/null
}

# pg_start PLACE PORT [SETTING…]: starts the cluster; prints its address.
pg_start() {
  local place=$1 port=$2
  shift 2
  local settings="-c listen_addresses=127.0.0.1 -c port=$port -c unix_socket_directories=''" one
  for one in "$@"; do settings+=" -c $one"; done
  as_pg "$PG_BIN/pg_ctl" -D "$place" -w -t 60 -s -l "$place/server.log" -o "$settings" start </dev/null >&2 9>&-
  echo "postgres://fillagrant:$(cat "$place.secret")@127.0.0.1:$port/postgres"
}

# Only if it runs: a number left behind by one that was killed may be another program's by now.
pg_stop() {
  local pid
  pid=$(head -n 1 "$1/postmaster.pid" 2>/dev/null) || return 0
  [[ $(readlink "/proc/$pid/exe") == */postgres ]] || return 0
  as_pg "$PG_BIN/pg_ctl" -D "$1" -w -t 60 -m fast -s stop </dev/null >/dev/null 2>&1 || true
}
