/** A reporter of Playwright: for each test that fails, the command that runs it again. */
import path from 'node:path';
import { againCommand } from './again-command.mjs';

export default class AgainPlaywright {
  onTestEnd({ location }, { status }) {
    if (status === 'passed' || status === 'skipped') return;
    const file = path.relative(process.cwd(), location.file);
    console.log(`Run it again: ${againCommand(`${file}:${location.line}`)}`);
  }

  printsToStdio() {
    return true;
  }
}
