/** Names in ext: any bytes but the slash and zero, 255 at most. */
import type { NameRules } from '../names';
import { NAME_LIMIT } from './directory';

export const EXT_NAMES: NameRules = { forbidden: /[\0/]/u, takesAllElse: true, bytes: NAME_LIMIT };
