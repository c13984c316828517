/** Completion for shells, made from the commands and options themselves. */

export const SHELLS = ['bash', 'zsh', 'fish'] as const;
export type Shell = (typeof SHELLS)[number];

/** What can be completed: each command with its options. */
export interface Completable {
  readonly name: string;
  readonly about: string;
  readonly options: readonly { readonly flag: string; readonly about: string }[];
}

const quoted = (text: string): string => `'${text.replaceAll("'", "'\\''")}'`;

function bash(commands: readonly Completable[]): string {
  const cases = commands.map(
    ({ name, options }) => `    ${name}) words="${options.map((one) => one.flag).join(' ')}" ;;`,
  );
  return `# Completion of loess for bash: put this into a file that your shell reads.
_loess() {
  local word="\${COMP_WORDS[COMP_CWORD]}" words
  if [ "$COMP_CWORD" -eq 1 ]; then
    COMPREPLY=($(compgen -W "${commands.map((one) => one.name).join(' ')}" -- "$word"))
    return
  fi
  case "\${COMP_WORDS[1]}" in
${cases.join('\n')}
    *) words="" ;;
  esac
  case "$word" in
    -*) COMPREPLY=($(compgen -W "$words" -- "$word")) ;;
    *) COMPREPLY=($(compgen -f -- "$word")) ;;
  esac
}
complete -o filenames -F _loess loess
`;
}

function zsh(commands: readonly Completable[]): string {
  const described = commands.map(({ name, about }) => `    ${quoted(`${name}:${about}`)}`);
  const cases = commands.map(({ name, options }) => {
    const specs = options.map(({ flag, about }) => quoted(`${flag}[${about.replaceAll(/[[\]]/g, '')}]`));
    return `    ${name}) _arguments ${[...specs, "'*:file:_files'"].join(' ')} ;;`;
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
_loess "$@"
`;
}

function fish(commands: readonly Completable[]): string {
  const lines = commands.flatMap(({ name, about, options }) => [
    `complete -c loess -n __fish_use_subcommand -a ${name} -d ${quoted(about)}`,
    ...options.map(
      ({ flag, about: text }) =>
        `complete -c loess -n '__fish_seen_subcommand_from ${name}' -l ${flag.replace(/^--/, '')} -d ${quoted(text)}`,
    ),
  ]);
  return `# Completion of loess for fish: save it as loess.fish in the folder of completions.\n${lines.join('\n')}\n`;
}

/** The completion script for a shell. */
export function completionFor(shell: Shell, commands: readonly Completable[]): string {
  return { bash, zsh, fish }[shell](commands);
}
