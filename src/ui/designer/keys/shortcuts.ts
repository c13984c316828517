import type { Shortcut } from '../../kit/keys/screen';

/** All keys of the designer; letters act in the column. */
export const SHORTCUTS: readonly Shortcut[] = [
  ['↑ ↓', 'go from stratum to stratum'],
  ['Home End', 'to the first and the last one'],
  ['Enter', 'to the size of the selected slot'],
  ['+ −', 'make the selected slot one grain larger or smaller'],
  ['Tab, then ↑ ↓', 'on a boundary: move it by one grain; Shift or Page for 16'],
  ['Alt ↑ ↓', 'move what is selected up or down'],
  ['Shift ↑ ↓', 'select one more slot; Shift or Ctrl with the mouse'],
  ['A  R  F', 'add a partition, a raw range, free space'],
  ['Del', 'delete what is selected'],
  ['/', 'to the selected slot in one line'],
  ['P', 'slots as lines: paste or type many'],
  ['Ctrl C X V', 'copy, cut and paste slots, as lines of text'],
  ['Ctrl Z', 'undo; with Shift: redo'],
  ['L', 'the ledger: the first sector of what is selected, field by field'],
  ['M  T  H  C', 'machine, table, revisions, chart'],
  ['S', 'legible or true scale'],
  ['W  V', 'what goes into the selected slot; the variants of its FAT'],
  ['I  B  O', 'to the fit, to the build, to the hand-over'],
];
