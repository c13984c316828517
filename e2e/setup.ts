/** Builds the application once, before servers of it are started side by side. */
import { buildApplication } from '../scripts/prepare.mjs';

export default buildApplication;
