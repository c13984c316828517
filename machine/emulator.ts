/** Runs QEMU until it has said what a test waits for. One place for all machines: guests, firmware, board loaders, BIOS. */
import { type ChildProcessWithoutNullStreams, spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';

/** A machine that says nothing new is ended after so many seconds of its own processor time, however busy the host is. */
const SILENT_CPU = 120;
/** Or after so many looks, a second apart, in which it used no processor time: it waits for something that never comes. */
const IDLE_LOOKS = 45;
/** Clock ticks of a second, and how many of them an idle machine uses in one. */
const [TICKS, IDLE_TICKS] = [100, 1];
const LOOK = 1000;

/** Processor time of a process, in clock ticks (proc_pid_stat(5): utime and stime). */
function ticksOf(pid: number): number | undefined {
  try {
    const fields = readFileSync(`/proc/${pid}/stat`, 'utf8')
      .replace(/^.*\) /, '')
      .split(' ');
    return Number(fields[11]) + Number(fields[12]);
  } catch {
    // It has ended by itself.
    return undefined;
  }
}

/** Calls `onHang` once a process has said nothing for too long; `heard` starts over, `end` stops the watch. */
function watchdog(pid: number, onHang: (why: string) => void) {
  let [since, last, idle] = [0, 0, 0];
  // eslint-disable-next-line tests/no-sleep -- looks at the processor time of a machine, which alone decides
  const timer = setInterval(() => {
    const ticks = ticksOf(pid) ?? last;
    idle = ticks - last > IDLE_TICKS ? 0 : idle + 1;
    last = ticks;
    if (ticks - since > SILENT_CPU * TICKS) onHang(`it said nothing for ${SILENT_CPU} s of its processor time`);
    else if (idle > IDLE_LOOKS) onHang(`it was idle for ${IDLE_LOOKS} s`);
  }, LOOK);
  return {
    heard: () => {
      [since, idle] = [last, 0];
    },
    end: () => clearInterval(timer),
  };
}

export interface Machine {
  /** `qemu-system-x86_64` where nothing is said. */
  readonly program?: string;
  readonly args: readonly string[];
  /** Sent to its standard input at once. */
  readonly input?: string;
  /** It answers questions: what it says is no news by itself, `hasNews` of the listener says when it is. */
  readonly isAnswering?: boolean;
}

/** Everything that a machine said, in Latin-1, and the machine, to be ended or spoken to. */
type Listener = (said: string, child: ChildProcessWithoutNullStreams, hasNews: () => void) => void;

/**
 * Runs a machine until `onText` ends it, or it ends. Resolves with all that it said. Rejects if it hangs, with the end of what it
 * said.
 */
export function runUntilEnded(machine: Machine, onText: Listener): Promise<string> {
  const { program = 'qemu-system-x86_64', args, input, isAnswering = false } = machine;
  return new Promise((resolve, reject) => {
    // It ends with this process, however that ends: setpriv(1).
    const child = spawn('setpriv', ['--pdeathsig', 'KILL', program, ...args]);
    let [said, complaints, hang] = ['', '', ''];
    const ended = (why: string) => new Error(`${why}. It said:\n${said.slice(-3000)}\n${complaints.slice(-1000)}`);
    child.on('error', reject);
    if (child.pid === undefined) return;
    const watch = watchdog(child.pid, (why) => {
      hang = why;
      child.kill('SIGKILL');
    });
    child.stdin.on('error', () => undefined);
    if (input !== undefined) child.stdin.write(input);
    child.stdout.on('data', (chunk: Buffer) => {
      said += chunk.toString('latin1');
      if (!isAnswering) watch.heard();
      onText(said, child, watch.heard);
    });
    child.stderr.on('data', (chunk: Buffer) => (complaints += chunk.toString('latin1')));
    child.on('close', () => {
      watch.end();
      if (hang) reject(ended(`The machine was ended: ${hang}`));
      else if (complaints && said === '') reject(ended('The machine did not start'));
      else resolve(said);
    });
  });
}

/** Runs a machine until it has said `word`; resolves with all that it said. Rejects if it ends before. */
export async function runUntilSaid(machine: Machine, word: string | RegExp): Promise<string> {
  const isIn = (text: string) => (typeof word === 'string' ? text.includes(word) : word.test(text));
  let looked = 0;
  const said = await runUntilEnded(machine, (text, child) => {
    // What was looked at before is not looked at again, but for a word that was said in two pieces.
    if (isIn(text.slice(Math.max(0, looked - 200)))) child.kill('SIGKILL');
    looked = text.length;
  });
  if (!isIn(said)) throw new Error(`The machine ended before “${word}”. It said:\n${said.slice(-3000)}`);
  return said;
}
