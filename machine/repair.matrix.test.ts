/** Repaired tables and a real kernel: every damage, at both sector sizes. */
import { ALL, repairTrips } from './repair';

repairTrips(ALL);
