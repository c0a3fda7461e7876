# Completion for bash, and for zsh with bashcompinit: asks the program itself.
_gatechain() {
  local IFS=$'\n' word=${COMP_WORDS[COMP_CWORD]}
  COMPREPLY=($(compgen -W "$(gatechain "[suggest:$COMP_POINT]" "$COMP_LINE" 2> /dev/null)" -- "$word"))
  # Without a word of its own a file is meant, mostly.
  [ ${#COMPREPLY[@]} -gt 0 ] || COMPREPLY=($(compgen -f -- "$word"))
}
complete -o filenames -F _gatechain gatechain
