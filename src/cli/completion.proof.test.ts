/** Completion, driven by the shells themselves: they read the script, get a line, and complete it. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { folderOfEachTest, loess } from '@tests/terminal';
import { type Shell, SHELLS } from './completion';

const { file, now } = folderOfEachTest();

const BASH = `source "$1"
IFS=' ' read -ra COMP_WORDS <<< "$2"
[[ $2 == *' ' ]] && COMP_WORDS+=('')
COMP_CWORD=$((\${#COMP_WORDS[@]} - 1))
# What "complete" registered, as readline calls it.
call=$(complete -p loess); call=\${call#*-F }; call=\${call%% *}
"$call" loess "\${COMP_WORDS[COMP_CWORD]}"
printf '%s\\n' "\${COMPREPLY[@]}"`;

/**
 * A terminal of its own, in which a line is typed, completed with the tabulator, and sent: what stands for
 * the program says which words it was given. Nothing is waited for but what is printed.
 */
const ZSH = `zmodload zsh/zpty
zpty z zsh -f -i
zpty -w z 'PS1=; autoload -U compinit; compinit -u -d "$PWD/.dump"; source '"$1"'; unsetopt beep'
zpty -w z 'LISTMAX=0; loess() { print -r -- "G""OT:$*:" }; print R""EADY'
zpty -r z out '*READY*'
zpty -w z "$2"$'\t'
zpty -r z out '*GOT:*:*'
print -r -- "$out"
zpty -d z`;

const CONTROLS = new RegExp(`${String.fromCharCode(27)}\\[[0-9;?]*[A-Za-z]|[\\r\\b\\u0007]`, 'g');

const FISH = 'source $argv[1]; complete -C $argv[2]';

/** What a shell makes of a line, as text: the line completed, or what it offers. */
function completed(shell: Shell, script: string, line: string): string {
  const args = { bash: ['-c', BASH, '_'], zsh: ['-f', '-c', ZSH, '_'], fish: ['-c', FISH] }[shell];
  const env = { ...process.env, TERM: 'dumb', HOME: now() };
  const out = execFileSync(shell, [...args, script, line], { cwd: now(), encoding: 'utf8', env });
  return out.replaceAll(CONTROLS, '');
}

describe.each(SHELLS)('%s', (shell) => {
  let script = '';
  beforeEach(async () => {
    script = file(`loess.${shell}`);
    writeFileSync(script, (await loess(['completion', shell])).out);
    writeFileSync(file('my card.json'), '');
    mkdirSync(file('a folder'));
  });

  test.each([
    ['commands', 'loess back', /back-up/],
    ['options', 'loess build --repl', /--replace/],
    ['choices of options', 'loess new --loader-from inst', /installer/],
    ['choices with blanks or dashes', 'loess new --start old', /old-machine/],
    ['choices of arguments', 'loess completion fi', /fish/],
    ['commands behind help', 'loess help rest', /restore/],
    ['files with blanks, where a document goes', 'loess build my', /my\\? card\.json/],
    ['files behind an option', 'loess build x --into my', /my\\? card\.json/],
  ])('%s', (_, line, offered) => {
    expect(completed(shell, script, line)).toMatch(offered);
  });

  test('folders alone where a folder goes, and no files where a number goes', () => {
    const folders = completed(shell, script, 'loess clean ');
    expect(folders).toMatch(/a\\? folder/);
    expect(folders).not.toMatch(/card/);
    expect(completed(shell, script, 'loess build x --copy ')).not.toMatch(/card|folder/);
    expect(completed(shell, script, 'loess completion ')).not.toMatch(/card|folder/);
  });
});
