/** Runs before `npm pack`: the package has the terminal program as it is built, and needs nothing else. */
import { bundleTerminal, installDependencies, ROOT } from './prepare.mjs';

process.chdir(ROOT);
installDependencies();
bundleTerminal();
