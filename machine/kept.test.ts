/** Round trips of kept media through a real kernel: a fixed part of them. */
import { ALL, roundTrips } from './kept';

roundTrips(ALL.filter((_, i) => i % 4 === 1));
