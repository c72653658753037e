# Completes crisp-ember and crisp-ember-cli in bash: what they say of themselves with --help.

_crisp_ember_words() {
    "$@" --help 2>/dev/null | grep -oE -- '(^|[ ,])--[a-z][a-z-]*' | tr -d ' ,' | sort -u
}

_crisp_ember() {
    local word=${COMP_WORDS[COMP_CWORD]} program=${COMP_WORDS[0]} command=
    COMPREPLY=()
    if [[ ${program##*/} == crisp-ember-cli ]]; then
        command=${COMP_WORDS[1]}
        if [[ $COMP_CWORD -eq 1 && $word != -* ]]; then
            local commands
            commands=$("$program" --help 2>/dev/null | sed -n '/^Subcommands:/,$s/^  \([a-z][a-z-]*\) .*/\1/p')
            mapfile -t COMPREPLY < <(compgen -W "$commands" -- "$word")
            return
        fi
    fi
    if [[ $word == -* ]]; then
        mapfile -t COMPREPLY < <(compgen -W "$(_crisp_ember_words "$program" $command)" -- "$word")
    else
        mapfile -t COMPREPLY < <(compgen -f -X '!*.json' -- "$word"; compgen -d -- "$word")
        compopt -o filenames 2>/dev/null
    fi
}

complete -F _crisp_ember crisp-ember crisp-ember-cli
