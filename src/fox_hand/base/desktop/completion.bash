_fox_hand_completion() {
    local IFS=$'
'
    COMPREPLY=( $( env COMP_WORDS="${COMP_WORDS[*]}" \
                   COMP_CWORD=$COMP_CWORD \
                   _FOX_HAND_COMPLETE=complete_bash $1 ) )
    return 0
}

complete -o default -F _fox_hand_completion fox-hand
