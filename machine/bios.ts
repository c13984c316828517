/** A machine with a BIOS that starts from an image, and what then stands on its screen. */
import { runUntilEnded } from './emulator';

/** Cells of the screen: 80 columns of 25 lines. */
const CELLS = 2000;

/** What is started, and how it is attached. */
export interface BiosDisk {
  readonly file: string;
  readonly as?: 'disk' | 'floppy';
  /** Sector that cannot be read. */
  readonly broken?: { readonly sector: number; readonly conf: string };
}

function attached({ file, as = 'disk', broken }: BiosDisk): string[] {
  const source = broken ? `blkdebug:${broken.conf}:${file}` : file;
  if (as === 'floppy') return ['-drive', `file=${source},format=raw,if=floppy,snapshot=on`, '-boot', 'a'];
  return ['-drive', `file=${source},format=raw,if=none,id=d,snapshot=on`, '-device', 'ide-hd,drive=d', '-boot', 'c'];
}

/** Text of the screen, as the monitor of the machine shows its memory: two bytes a cell, the character first. */
function screenIn(said: string): string {
  const cells = [...said.matchAll(/^0*b[89a-f][0-9a-f]{3}:(.*)$/gim)].flatMap(([, words]) =>
    words!
      .trim()
      .split(/\s+/)
      .map((word) => parseInt(word, 16) & 0xff),
  );
  return String.fromCharCode(...cells.slice(-CELLS).map((code) => (code < 32 ? 32 : code)));
}

/** Between two looks at the screen, in milliseconds. */
const PAUSE = 200;

/** Starts from a disk; the text of the screen once one of these sentences stands on it. */
export async function screenOf(disk: BiosDisk, sentences: readonly string[]): Promise<string> {
  const machine = '-accel tcg -m 16 -nodefaults -device VGA -display none -monitor stdio'.split(' ');
  const look = `xp /${CELLS}hx 0xb8000\n`;
  let [screen, looked] = ['', 0];
  const args = [...machine, ...attached(disk)];
  await runUntilEnded({ program: 'qemu-system-i386', args, input: look, isAnswering: true }, (said, child, hasNews) => {
    // The monitor is ready again.
    if (!/\(qemu\) $/.test(said.slice(looked)) || screenIn(said.slice(looked)) === '') return;
    const before = screen;
    screen = screenIn(said.slice(looked));
    looked = said.length;
    if (screen !== before) hasNews();
    if (sentences.some((one) => screen.includes(one))) child.kill('SIGKILL');
    // eslint-disable-next-line tests/no-sleep -- between two looks; decides nothing
    else setTimeout(() => child.stdin.write(look), PAUSE);
  });
  return screen;
}
