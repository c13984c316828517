/** The command that runs one test again as it ran: same tier, same seed. */

const quoted = (text) => (/^[\w./:-]+$/.test(text) ? text : `'${text.replaceAll("'", "'\\''")}'`);

/**
 * @param {string} file path of the test's file, from the root of the clone
 * @param {string | undefined} name full name of the test; all of the file without it
 * @returns {string}
 */
export function againCommand(file, name) {
  const { LOESS_TIER, LOESS_SEED, LOESS_ROUNDS } = process.env;
  return [
    LOESS_ROUNDS && `LOESS_ROUNDS=${LOESS_ROUNDS}`,
    LOESS_TIER === 'deep' ? 'npm run test:deep --' : 'npm test --',
    quoted(file),
    name && `--name ${quoted(name)}`,
    LOESS_SEED && `--seed ${LOESS_SEED}`,
  ]
    .filter(Boolean)
    .join(' ');
}
