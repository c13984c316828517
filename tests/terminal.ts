/** The terminal program run inside a test. */
import { run } from '@/cli/program';

/** Runs the program; what it said, and how it ended. */
export async function loess(args: readonly string[], stdin = '', signal = new AbortController().signal) {
  let [out, error] = ['', ''];
  const exit = await run(args, {
    out: (text) => (out += text),
    error: (text) => (error += text),
    stdin: () => Promise.resolve(stdin),
    signal,
    isTerminal: false,
  });
  return { exit, out, error, json: () => JSON.parse(out) as Record<string, unknown> };
}
