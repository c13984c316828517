/** `npm run schema`: writes the published JSON Schemas: of the layout document, and of the terminal's answers. */
import { mkdirSync, writeFileSync } from 'node:fs';
import { answersSchema } from '../src/cli/answers-schema';
import { layoutSchema } from '../src/core/layout/schema';

mkdirSync('public', { recursive: true });
writeFileSync('public/layout-2.schema.json', `${JSON.stringify(layoutSchema(), null, 2)}\n`);
writeFileSync('public/answers-1.schema.json', `${JSON.stringify(answersSchema(), null, 2)}\n`);
