/** A prepared image of a file system as a kind of content. */
import type { Kind, TypeContent } from '../kind';
import { kernelType } from '../mounted';
import { blobOf } from '../supplied';
import type { ImageContent } from './shape';
/** What of an image decides a type, by the name of what was recognised. */
const BY_NAME: Readonly<Record<string, TypeContent>> = { exFAT: 'ifs', NTFS: 'ifs' };

export const IMAGE: Kind<ImageContent> = {
  kind: 'image',
  word: 'image',
  summary: ({ name }) => ({ word: 'image', detail: name }),
  mounted({ sha256 }, _made, contents) {
    const image = blobOf(sha256, contents)?.image;
    if (!image || image.disk !== undefined) return { type: undefined, known: 'later' };
    return { type: kernelType(image.name), id: image.id, label: image.label, known: 'read' };
  },
  typed({ sha256 }, _made, contents) {
    const image = blobOf(sha256, contents)?.image;
    if (!image || image.disk !== undefined) return 'none';
    if (image.name.startsWith('swap')) return 'swap';
    return image.variant ?? BY_NAME[image.name] ?? 'linux';
  },
};
