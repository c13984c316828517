#!/usr/bin/env node
/** The terminal program: bundled when its sources changed, then run. */
import { pathToFileURL } from 'node:url';
import { bundleTerminal, installDependencies, MIGRATIONS, TERMINAL, WRITE_WORKER } from '../scripts/prepare.mjs';

installDependencies();
bundleTerminal();
process.env.LOESS_WRITE_WORKER ??= WRITE_WORKER;
process.env.LOESS_MIGRATIONS ??= MIGRATIONS;
await import(pathToFileURL(TERMINAL).href);
