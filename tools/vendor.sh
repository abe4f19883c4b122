#!/usr/bin/env bash
# Copies the front-end parts we ship from npm packages of pinned versions into cantrel/static/vendor.
# Needs node and npm; run by hand when a version changes, then commit the result.
set -euo pipefail
cd "$(dirname "$0")/.."
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
(cd "$work" && npm init -y >/dev/null && npm install --ignore-scripts --no-audit --no-fund \
  bootstrap@5.3.9 sass@1.93.2 esbuild@0.25.10 sortablejs@1.15.6 @alpinejs/csp@3.17.4 @alpinejs/morph@3.17.4 tom-select@2.6.2 idb@8.0.3 workbox-strategies@7.3.0 workbox-routing@7.3.0 workbox-expiration@7.3.0 workbox-cacheable-response@7.3.0 workbox-core@7.3.0 @fontsource-variable/archivo@5.3.0 bootstrap-icons@1.13.2 axe-core@4.14.1 >/dev/null)
from=$work/node_modules
to=cantrel/static/vendor
rm -rf "$to" && mkdir -p "$to"
copy() { mkdir -p "$to/$(dirname "$2")" && cp "$from/$1" "$to/$2"; }
# Bootstrap is built from its Sass with our own tokens, and of its scripts only the parts pages use.
mkdir -p "$to/bootstrap" && cp tools/look/parts.js "$work/"
"$work/node_modules/.bin/sass" --quiet --no-source-map --style=compressed --load-path="$from" tools/look/bootstrap.scss "$to/bootstrap/bootstrap.css"
(cd "$work" && node_modules/.bin/esbuild parts.js --bundle --minify --format=iife --log-level=error) >"$to/bootstrap/parts.js"
# The service worker's parts of workbox as one file, and the small library its queue is kept by.
mkdir -p "$to/workbox" && cp tools/look/worker.js "$work/"
(cd "$work" && node_modules/.bin/esbuild worker.js --bundle --minify --format=iife --define:process.env.NODE_ENV='"production"' --log-level=error) >"$to/workbox/worker.js"
copy workbox-core/LICENSE workbox/LICENSE
copy idb/build/umd.js idb/idb.js
copy idb/LICENSE idb/LICENSE
copy sortablejs/Sortable.min.js sortable/Sortable.min.js
copy sortablejs/LICENSE sortable/LICENSE
copy bootstrap/LICENSE bootstrap/LICENSE
copy @alpinejs/csp/dist/cdn.min.js alpine/alpine-csp.min.js
copy @alpinejs/morph/dist/cdn.min.js alpine/morph.min.js
copy tom-select/dist/js/tom-select.base.min.js tom-select/tom-select.base.min.js
sed -i '/sourceMappingURL/d' "$to/tom-select/tom-select.base.min.js"
copy tom-select/LICENSE tom-select/LICENSE
copy @fontsource-variable/archivo/files/archivo-latin-wght-normal.woff2 archivo/archivo-latin-wght-normal.woff2
copy @fontsource-variable/archivo/LICENSE archivo/LICENSE
cp tools/alpine.LICENSE "$to/alpine/LICENSE" # the package brings none
copy bootstrap-icons/LICENSE icons/LICENSE
{
  echo '<svg xmlns="http://www.w3.org/2000/svg">'
  for icon in arrow-counterclockwise printer plus-lg trash question-lg download chevron-right moon-stars arrow-clockwise pencil rulers zoom-in zoom-out upload image layers crosshair list; do
    sed -e "s/<svg .*viewBox=\"\([^\"]*\)\".*>/<symbol id=\"$icon\" viewBox=\"\1\">/" -e 's/<\/svg>/<\/symbol>/' \
      "$from/bootstrap-icons/icons/$icon.svg"
  done
  echo '</svg>'
} >"$to/icons/sprite.svg"
mkdir -p tests/browser/vendor && cp "$from/axe-core/axe.min.js" tests/browser/vendor/axe.min.js
cp "$from/axe-core/LICENSE" tests/browser/vendor/LICENSE
cat >"$to/README" <<'NOTE'
Vendored by tools/vendor.sh; do not edit. Alpine.js (MIT, github.com/alpinejs/alpine), Tom Select (Apache 2.0), Bootstrap
and its icons (MIT), SortableJS (MIT), Workbox (MIT), idb (ISC),
Archivo (SIL Open Font License). Licences stand beside the files.
NOTE
