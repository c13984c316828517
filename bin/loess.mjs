#!/usr/bin/env node
/** The terminal program: bundled when its sources changed, then run. */
import { pathToFileURL } from 'node:url';
import { bundleTerminal, installDependencies, TERMINAL } from '../scripts/prepare.mjs';

installDependencies();
bundleTerminal();
await import(pathToFileURL(TERMINAL).href);
