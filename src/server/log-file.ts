/** Where the log goes: by `LOESS_LOG`, a level, a file, or both with a colon between them. */
import pino from 'pino';
import type { Level, Log } from './log';

const LEVELS: readonly Level[] = ['debug', 'info', 'warn', 'error'];
const USUAL: Level = 'info';

const isLevel = (word: string): word is Level => (LEVELS as readonly string[]).includes(word);

/** Reads `LOESS_LOG`: `warn`, `/var/log/loess.log` or `debug:/var/log/loess.log`; without a file it is the standard error. */
function logWanted(text: string | undefined): { readonly level: Level; readonly file: string | undefined } {
  if (!text) return { level: USUAL, file: undefined };
  const at = text.indexOf(':');
  const [word, rest] = at < 0 ? [text, ''] : [text.slice(0, at), text.slice(at + 1)];
  if (isLevel(word)) return { level: word, file: rest || undefined };
  if (/[/.]/.test(text)) return { level: USUAL, file: text };
  throw new Error(`LOESS_LOG must be a level (${LEVELS.join(', ')}), a file, or LEVEL:FILE, not “${text}”.`);
}

/** Opens the log. Throws an Error with a sentence where its file cannot be written. */
export function openLog(text: string | undefined): Log {
  const { level, file } = logWanted(text);
  const options = {
    level,
    base: undefined,
    timestamp: pino.stdTimeFunctions.isoTime,
    formatters: { level: (label: string) => ({ level: label }) },
    serializers: { error: pino.stdSerializers.err },
    messageKey: 'message',
  };
  try {
    const out = pino(options, pino.destination({ dest: file ?? 2, sync: true, append: true, mkdir: false }));
    return { write: (at, facts, sentence) => out[at](facts, sentence) };
  } catch (error) {
    throw new Error(
      `The log cannot be written to “${file}” (${(error as NodeJS.ErrnoException).code ?? String(error)}). Name another file in LOESS_LOG.`,
      { cause: error },
    );
  }
}
