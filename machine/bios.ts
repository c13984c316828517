/** A machine with a BIOS that starts from an image, and what then stands on its screen. */
import { spawn } from 'node:child_process';

/** Longest time until something is said. */
const LIMIT = 60_000;
/** Between two looks at the screen. */
const PAUSE = 400;
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

/** Starts from a disk; the text of the screen once one of these sentences stands on it. */
export function screenOf(disk: BiosDisk, sentences: readonly string[]): Promise<string> {
  const machine = [
    '-accel',
    'tcg',
    '-m',
    '16',
    '-nodefaults',
    '-device',
    'VGA',
    '-display',
    'none',
    '-monitor',
    'stdio',
  ];
  return new Promise((resolve, reject) => {
    const child = spawn('qemu-system-i386', [...machine, ...attached(disk)]);
    let said = '';
    let complained = '';
    let screen = '';
    const began = Date.now();
    const end = (done: () => void) => {
      clearInterval(timer);
      child.kill('SIGKILL');
      done();
    };
    const timer = setInterval(() => {
      screen = screenIn(said) || screen;
      if (sentences.some((one) => screen.includes(one))) end(() => resolve(screen));
      else if (Date.now() - began > LIMIT)
        end(() =>
          reject(
            new Error(
              `None of ${sentences.join(', ')} on the screen:\n${screen.replace(/\s{3,}/g, '\n')}\n${complained}`,
            ),
          ),
        );
      else {
        said = '';
        child.stdin.write(`xp /${CELLS}hx 0xb8000\n`);
      }
    }, PAUSE);
    child.stdout.on('data', (chunk: Buffer) => (said += chunk.toString('latin1')));
    child.stderr.on('data', (chunk: Buffer) => (complained += chunk.toString('latin1')));
    child.on('error', (error) => end(() => reject(error)));
  });
}
