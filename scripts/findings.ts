/** `npm run findings`: writes docs/findings.md from the rules. */
import { writeFileSync } from 'node:fs';
import { findingsPage } from '../tests/findings-page';

void findingsPage().then((page) => writeFileSync('docs/findings.md', page));
