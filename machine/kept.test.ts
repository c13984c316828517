/** Round trips of kept media through a real kernel: a fixed part of them, with every table, sector size and act. */
import { ALL, roundTrips } from './kept';

roundTrips(ALL.filter((_, i) => i % 6 === 1));
