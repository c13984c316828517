/** Completion for shells, made from the commands, arguments and options themselves. */

export const SHELLS = ['bash', 'zsh', 'fish'] as const;
export type Shell = (typeof SHELLS)[number];

/** What a value is completed with: choices, files or folders, or nothing. */
export type Values = { readonly choices: readonly string[] } | 'files' | 'folders' | 'nothing';

export interface CompletableOption {
  readonly flag: string;
  readonly about: string;
  /** Undefined where it takes no value. */
  readonly values: Values | undefined;
  /** It may be said again. */
  readonly repeats: boolean;
}

/** What can be completed: each command with its arguments and options. */
export interface Completable {
  readonly name: string;
  readonly about: string;
  readonly arguments: readonly Values[];
  readonly options: readonly CompletableOption[];
}

const quoted = (text: string): string => `'${text.replaceAll("'", "'\\''")}'`;
const lines = (words: readonly string[]): string => quoted(words.join('\n'));

/** The statement that completes a value in bash. */
function bashValues(values: Values | undefined): string {
  if (values === 'files') return '_loess_files -f';
  if (values === 'folders') return '_loess_files -d';
  return values === undefined || values === 'nothing' ? ':' : `_loess_words ${lines(values.choices)}`;
}

function bash(commands: readonly Completable[]): string {
  const cases = commands.map(({ name, options, arguments: args }) => {
    const valued = options.flatMap(({ flag, values }) =>
      values ? [`      ${flag}) ${bashValues(values)}; return ;;`] : [],
    );
    const taking = options.flatMap(({ flag, values }) => (values ? [flag] : []));
    return `    ${name})
      case "$before" in
${[...valued, '      *) ;;'].join('\n')}
      esac
      case "$word" in
      -*) _loess_words ${lines(options.map((one) => one.flag))} ;;
      *)
        _loess_count ${quoted(taking.join(' '))}
        case $count in
${args.map((values, i) => `        ${i}) ${bashValues(values)} ;;`).join('\n') || '        *) : ;;'}
        esac ;;
      esac ;;`;
  });
  return `# Completion of loess for bash: put this into a file that your shell reads.
_loess_words() {
  local one IFS=$'\\n'
  for one in $1; do
    [[ $one == "$word"* ]] && COMPREPLY+=("$(printf '%q' "$one")")
  done
}
_loess_files() {
  compopt -o filenames 2>/dev/null
  mapfile -t COMPREPLY < <(compgen "$1" -- "$word")
}
# How many arguments stand before the word, options and their values aside.
_loess_count() {
  local i
  count=0
  for ((i = 2; i < COMP_CWORD; i++)); do
    case "\${COMP_WORDS[i]}" in
    -?*) [[ " $1 " == *" \${COMP_WORDS[i]} "* ]] && ((i++)) ;;
    *) ((count++)) ;;
    esac
  done
}
_loess() {
  local word="\${COMP_WORDS[COMP_CWORD]}" before="\${COMP_WORDS[COMP_CWORD - 1]}" count
  COMPREPLY=()
  if [ "$COMP_CWORD" -eq 1 ]; then
    _loess_words ${lines(commands.map((one) => one.name))}
    return
  fi
  case "\${COMP_WORDS[1]}" in
${cases.join('\n')}
  esac
}
complete -F _loess loess
`;
}

/** What zsh is told of a value: a message, and what does the completing. */
function zshValues(values: Values): string {
  if (values === 'files') return ':file:_files';
  if (values === 'folders') return ':folder:_files -/';
  if (values === 'nothing') return ':value:';
  return `:choice:(${values.choices.map((one) => one.replaceAll(/[\s()\\:]/g, '\\$&')).join(' ')})`;
}

function zsh(commands: readonly Completable[]): string {
  const described = commands.map(({ name, about }) => `    ${quoted(`${name}:${about}`)}`);
  const cases = commands.map(({ name, options, arguments: args }) => {
    const specs = [
      ...options.map(
        ({ flag, about, values, repeats }) =>
          `${repeats ? '*' : ''}${flag}[${about.replaceAll(/[[\]]/g, '').replaceAll(':', '\\:')}]${values ? zshValues(values) : ''}`,
      ),
      ...args.map((values, i) => `${i + 1}${zshValues(values)}`),
    ];
    return `    ${name}) _arguments ${specs.map(quoted).join(' ')} ;;`;
  });
  return `#compdef loess
# Completion of loess for zsh: save it as _loess in a folder of fpath.
_loess() {
  local -a commands=(
${described.join('\n')}
  )
  if (( CURRENT == 2 )); then
    _describe command commands
    return
  fi
  local command=$words[2]
  shift words
  (( CURRENT-- ))
  case $command in
${cases.join('\n')}
  esac
}
if [[ $funcstack[1] == _loess ]]; then _loess "$@"; else compdef _loess loess; fi
`;
}

/** What fish is told of a value. */
function fishValues(values: Values | undefined): string {
  if (values === undefined) return '';
  if (values === 'files') return ' -r -F';
  if (values === 'folders') return " -x -a '(__fish_complete_directories)'";
  if (values === 'nothing') return ' -x';
  return ` -x -a ${quoted(values.choices.map((one) => `"${one}"`).join(' '))}`;
}

function fish(commands: readonly Completable[]): string {
  const each = commands.flatMap(({ name, about, options, arguments: args }) => [
    `complete -c loess -n __fish_use_subcommand -a ${name} -d ${quoted(about)}`,
    ...options.map(
      ({ flag, about: text, values }) =>
        `complete -c loess -n '__fish_seen_subcommand_from ${name}' -l ${flag.replace(/^--/, '')} -d ${quoted(text)}${fishValues(values)}`,
    ),
    ...args.map(
      (values) =>
        `complete -c loess -n '__fish_seen_subcommand_from ${name}'${fishValues(values).replace(' -r', '').replace(' -x', '')}`,
    ),
  ]);
  return `# Completion of loess for fish: save it as loess.fish in the folder of completions.\ncomplete -c loess -f\n${each.join('\n')}\n`;
}

/** The completion script for a shell. */
export function completionFor(shell: Shell, commands: readonly Completable[]): string {
  return { bash, zsh, fish }[shell](commands);
}
