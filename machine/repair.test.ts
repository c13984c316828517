/** Repaired tables and a real kernel: some of the damages; every damage at both sector sizes in the second tier. */
import { cases, oneOf } from '@tests/tier';
import { ALL, repairTrips, SOME } from './repair';

repairTrips(cases(oneOf(3, SOME), ALL));
