/** Round trips of kept media through a real kernel: some with every table, sector size and act; all in the second tier. */
import { cases } from '@tests/tier';
import { ALL, roundTrips } from './kept';

roundTrips(
  cases(
    ALL.filter((_, i) => i % 19 === 1),
    ALL,
  ),
);
