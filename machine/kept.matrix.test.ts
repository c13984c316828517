/** Round trips of kept media through a real kernel: all of them. */
import { ALL, roundTrips } from './kept';

roundTrips(ALL);
