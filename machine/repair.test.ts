/** Repaired tables and a real kernel: some of the damages. */
import { repairTrips, SOME } from './repair';

repairTrips(SOME);
