#compdef fox-hand

_fox_hand_completion() {
  eval $(env _TYPER_COMPLETE_ARGS="${words[1,$CURRENT]}" _FOX_HAND_COMPLETE=complete_zsh fox-hand)
}

compdef _fox_hand_completion fox-hand
