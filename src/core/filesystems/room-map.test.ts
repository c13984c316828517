/** Maps of the room of volumes; those of FAT, exFAT and ext are held against what was put there beside their readers. */
import { MapDrawing, UsedRuns } from './room-map';

test('cells are of one length, whole units, and hold what was added of them', () => {
  const drawing = new MapDrawing(1000, 10, 8);
  drawing.add('structures', 0, 130);
  drawing.add('used', 120, 200);
  drawing.add('used', 990, 500);
  const { cells, unit } = drawing.map();
  expect(unit).toBe(10);
  expect(cells.map(({ from, bytes, structures, used }) => [from, bytes, structures, used])).toEqual([
    [0, 130, 130, 0],
    [130, 130, 0, 130],
    [260, 130, 0, 60],
    [390, 130, 0, 0],
    [520, 130, 0, 0],
    [650, 130, 0, 0],
    [780, 130, 0, 0],
    [910, 90, 0, 10],
  ]);
});

test('what is in use comes unit by unit, and is added in runs', () => {
  const drawing = new MapDrawing(4000, 100, 4);
  const runs = new UsedRuns(drawing, (unit) => 500 + unit * 100, 100);
  for (const unit of [0, 1, 2, 3, 4, 9, 20, 21]) runs.add(unit);
  runs.flush();
  expect(drawing.map().cells.map(({ used }) => used)).toEqual([500, 100, 200, 0]);
});

test('nothing is more than full, whatever a volume says', () => {
  const drawing = new MapDrawing(100, 10, 2);
  for (let i = 0; i < 5; i++) {
    drawing.add('structures', 0, 40);
    drawing.add('used', 0, 1e12);
  }
  for (const { bytes, structures, used } of drawing.map().cells) expect(structures + used).toBe(bytes);
});
