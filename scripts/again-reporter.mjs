/** A reporter of Jest: for each test that fails, the command that runs it again, with its seed. */
import path from 'node:path';
import { againCommand } from './again-command.mjs';

export default class AgainReporter {
  onTestResult({ path: file }, { testResults, testExecError }) {
    const failed = testResults.filter(({ status }) => status === 'failed').map(({ fullName }) => fullName);
    if (testExecError && failed.length === 0) failed.push(undefined);
    for (const name of failed) console.log(`Run it again: ${againCommand(path.relative(process.cwd(), file), name)}`);
  }
}
