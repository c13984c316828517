/**
 * Names in exFAT volumes: "FileName Field", 7.7.3 of the exFAT specification, which allows blanks and
 * points at both ends and every code above 1Fh that is not listed.
 */
import type { NameRules } from '../names';

export const EXFAT_NAMES: NameRules = { forbidden: /[\u0000-\u001f"*/:<>?\\|]/u, takesAllElse: true };
