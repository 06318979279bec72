# Completion of kymaton for bash. Written by `make pages`.
_kymaton() {
  local now="${COMP_WORDS[COMP_CWORD]}" said="${COMP_WORDS[*]:1:COMP_CWORD-1}" words=""
  if [ "$COMP_CWORD" -eq 1 ]; then words="ask budget build check compare demo embed even extract hear levels lines loadin loudness off-air open plan private render schema sim sync"
  elif [[ "$now" == -* ]]; then case "$said" in
    "open"*) words="--help" ;;
    "demo"*) words="--help" ;;
    "check"*) words="--help --cue --json" ;;
    "hear"*) words="--help --cue --listener --json" ;;
    "plan"*) words="--help --json --apply --out" ;;
    "levels"*) words="--help --sound --gains --cue --listener --json --apply --out" ;;
    "budget"*) words="--help --measure --trace --store --json" ;;
    "loadin"*) words="--help --out --only --hands --labels --ticks --missing --without --json" ;;
    "even"*) words="--help --music-under --cue --listener --json --apply --out" ;;
    "off-air"*) words="--help --to --out --cue" ;;
    "private"*) words="--help --json" ;;
    "ask"*) words="--help --cue --json" ;;
    "compare"*) words="--help --with --variant --cue --json" ;;
    "render"*) words="--help --cue --listener --json --out --sound" ;;
    "lines"*) words="--help --out" ;;
    "build"*) words="--help --out" ;;
    "schema"*) words="--help" ;;
    "sync solve"*) words="--help --per-cue --every-camera --json" ;;
    "sync clip"*) words="--help --out --fps --seconds --size --lead-ms" ;;
    "sync measure"*) words="--help --claps --made --json" ;;
    "sync align"*) words="--help --json" ;;
    "embed"*) words="--help --out --also --list --offset-ms --auto --drift-ppm --codec --keep-original --shorter --seconds --name --language --gain-db --loudness --true-peak --swap --json" ;;
    "extract"*) words="--help --out --offset-ms --swap" ;;
    "loudness"*) words="--help --goal --csv --json" ;;
    "sim camera"*) words="--help --out --picture-ms --sound-ms --seconds --exposure --sound-ppm --noise --fps --clip-fps" ;;
  esac
  elif [ "$COMP_CWORD" -eq 2 ]; then case "${COMP_WORDS[1]}" in
    sync) words="solve clip measure align" ;;
    sim) words="camera" ;;
  esac; fi
  COMPREPLY=($(compgen -W "$words" -- "$now"))
  [ -n "$words" ] || COMPREPLY=($(compgen -f -- "$now"))
}
complete -o filenames -F _kymaton kymaton
