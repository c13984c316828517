/**
 * The process that a build is compared with: writes given blocks to given places of a new
 * sparse file with one fsync, and says how many milliseconds that took.
 */
import { open, readFile } from 'node:fs/promises';

const [, , file, size, placesFile, dataFile] = process.argv;
const places = JSON.parse(await readFile(placesFile, 'utf8'));
const data = await readFile(dataFile);
const handle = await open(file, 'wx');
const started = performance.now();
await handle.truncate(Number(size));
for (const [i, place] of places.entries()) await handle.write(data, i * 4096, 4096, place);
await handle.sync();
console.log(performance.now() - started);
await handle.close();
