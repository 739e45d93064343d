# Shared by the commands in bin/: installs and builds only what is missing or out of date.
export NEXT_TELEMETRY_DISABLED=1
# Room for what is young: at thousands of messages a second less of it is carried on only to be dropped a moment later.
NODE_FLAGS=(--max-semi-space-size=32)

need_node() {
  command -v node >/dev/null || { echo "Node.js 20.15 or newer is needed: apt-get install nodejs npm" >&2; exit 1; }
}

install_packages() {
  need_node
  local stamp=node_modules/.installed-for
  if [ -f "$stamp" ] && cmp -s package-lock.json "$stamp"; then return; fi
  # Somebody may have installed them by hand.
  if ! node scripts/installed.mjs; then
    echo "Installing packages …"
    # What builds and tests is needed too, whatever NODE_ENV says.
    npm ci --include=dev --no-audit --no-fund --loglevel=error
  fi
  cp package-lock.json "$stamp"
}

# One build at a time: a second start waits for the first and finds it done.
build_product() {
  if command -v flock >/dev/null; then (flock 9; build_if_changed) 9>.build.lock; else build_if_changed; fi
}

build_if_changed() {
  local stamp=.next/built-from now
  now=$(find src catalog standins scripts device package-lock.json next.config.ts tsconfig.json -type f -print0 | sort -z | xargs -0 sha256sum | sha256sum)
  if [ ! -f "$stamp" ] || [ "$(cat "$stamp")" != "$now" ]; then
    echo "Building …"
    node scripts/bundle.mjs
    node_modules/.bin/next build >.build.log 2>&1 || { cat .build.log; exit 1; }
    echo "$now" >"$stamp"
    # Without what this keeps, a start only takes longer.
    VIVID_HOST= node "${NODE_FLAGS[@]}" build/supervise.mjs --own --once >/dev/null || true
  fi
}
