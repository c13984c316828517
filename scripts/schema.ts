/** `npm run schema`: writes the published JSON Schema of the layout document. */
import { mkdirSync, writeFileSync } from 'node:fs';
import { layoutSchema } from '../src/core/layout/schema';

mkdirSync('public', { recursive: true });
writeFileSync('public/layout-2.schema.json', `${JSON.stringify(layoutSchema(), null, 2)}\n`);
