# Makes the machine ready: Node, Debian packages, npm packages. Sourced by bin/demo, bin/test and bin/benchmark.
# Says the one line to run where it may not install by itself. NEED names what is needed beside the basics.

say() { printf '%s\n' "$*" >&2; }

command -v node >/dev/null 2>&1 || { say "Node 20 is needed: apt-get install nodejs npm"; exit 1; }
node -e 'process.exit(Number(process.versions.node.split(".")[0]) >= 20 ? 0 : 1)' || { say "Node 20 or later is needed; this is $(node --version)."; exit 1; }

missing=""
command -v pdftotext >/dev/null 2>&1 || missing="$missing poppler-utils"
command -v qpdf >/dev/null 2>&1 || missing="$missing qpdf"
command -v tesseract >/dev/null 2>&1 || missing="$missing tesseract-ocr"
for language in eng deu fra; do
  ls /usr/share/tesseract-ocr/*/tessdata/$language.traineddata >/dev/null 2>&1 || missing="$missing tesseract-ocr-$language"
done
command -v heif-convert >/dev/null 2>&1 || missing="$missing libheif-examples"
ls /usr/bin/convert-im?.q16 >/dev/null 2>&1 || missing="$missing imagemagick"
command -v prlimit >/dev/null 2>&1 || missing="$missing util-linux"
ls /usr/lib/postgresql/*/bin/postgres >/dev/null 2>&1 || missing="$missing postgresql"
ls /usr/share/postgresql/*/extension/pg_trgm.control >/dev/null 2>&1 || missing="$missing postgresql-contrib"
ls /usr/share/fonts/truetype/liberation*/LiberationSans-Regular.ttf >/dev/null 2>&1 || missing="$missing fonts-liberation"
# The browser without its windows is half as heavy; where the whole one stands already it will do, also without a network.
case " ${NEED:-} " in
  *" chromium "*)
    command -v chromium-headless-shell >/dev/null 2>&1 || command -v chromium >/dev/null 2>&1 || missing="$missing chromium-headless-shell"
    ;;
esac
# Office files are laid out by LibreOffice behind a fence. Where it cannot be had they are shown as text.
office=""
[ -x /usr/lib/libreoffice/program/soffice.bin ] || office=" libreoffice-writer-nogui libreoffice-calc-nogui libreoffice-impress-nogui"
command -v bwrap >/dev/null 2>&1 || office="$office bubblewrap"
case " ${NEED:-} " in *" office "*) missing="$missing$office"; office="" ;; esac

if [ -n "$missing" ]; then
  sudo=""
  [ "$(id -u)" = 0 ] || sudo="sudo"
  line="$sudo apt-get update && $sudo apt-get install -y --no-install-recommends$missing"
  if [ "$(id -u)" != 0 ] && ! sudo -n true 2>/dev/null; then
    say "Debian packages are missing. Run this once:"; say "  $line"; exit 1
  fi
  say "Installing Debian packages:$missing"
  # Debian's package would start a cluster of its own; ours is the only one wanted.
  if [ ! -e /etc/postgresql-common/createcluster.conf ]; then
    $sudo mkdir -p /etc/postgresql-common
    printf 'create_main_cluster = false\n' | $sudo tee /etc/postgresql-common/createcluster.conf >/dev/null
  fi
  export DEBIAN_FRONTEND=noninteractive
  failed() { say "That did not work. Run this by hand:"; say "  $line"; exit 1; }
  $sudo apt-get update -qq >&2 || failed
  # An older Debian has the whole browser only.
  case "$missing" in *chromium-headless-shell*) apt-cache show chromium-headless-shell >/dev/null 2>&1 || missing="${missing/chromium-headless-shell/chromium}" ;; esac
  # A newer one has what opens telephones' photographs apart.
  case "$missing" in *libheif-examples*) ! apt-cache show libheif-plugin-libde265 >/dev/null 2>&1 || missing="$missing libheif-plugin-libde265" ;; esac
  $sudo apt-get install -y -qq --no-install-recommends $missing >&2 || failed
fi

if [ -n "$office" ] && [ ! -e node_modules/.amber-office-tried ]; then
  mkdir -p node_modules && touch node_modules/.amber-office-tried
  sudo=""
  [ "$(id -u)" = 0 ] || sudo="sudo -n"
  say "Installing what lays out office files (once, 300 MB):$office"
  DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends $office >&2 ||
    say "That did not work; office files are shown as text. To have their pages: apt-get install --no-install-recommends$office"
fi

lock="$(sha256sum package-lock.json | cut -d' ' -f1)"
if [ "$(cat node_modules/.amber-lock 2>/dev/null)" != "$lock" ]; then
  say "Installing npm packages"
  npm ci --no-audit --no-fund --loglevel=error >&2
  printf '%s' "$lock" > node_modules/.amber-lock
fi
