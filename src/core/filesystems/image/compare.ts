/** What was recognised in a prepared image before is recognised in its place. */
import type { Fact, FoundInside, Meant } from '../reader';
import type { ImageContent } from './shape';

export function compareImage({ image }: Meant<ImageContent>, found: FoundInside): Fact[] {
  if (!image || image.disk !== undefined) return [];
  const inside = found.image;
  return [
    ['content', image.name, inside?.name],
    ['id', image.id ?? '', inside && (inside.id ?? '')],
    ['label', image.label ?? '', inside && (inside.label ?? '')],
  ];
}
