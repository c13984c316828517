/** `npm run test:table`: writes the table of the tests into CONTRIBUTING.md. */
import { readFileSync, writeFileSync } from 'node:fs';
import { withTable } from '../tests/parts-table';

const times = JSON.parse(readFileSync('tests/part-times.json', 'utf8')) as Record<string, number>;
writeFileSync('CONTRIBUTING.md', withTable(readFileSync('CONTRIBUTING.md', 'utf8'), times));
