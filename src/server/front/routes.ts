/**
 * Every address that programs may ask, with the methods that it takes: the one list of them. Whatever is not in it is
 * refused before anything is looked at. `HEAD` goes with `GET`, and `OPTIONS` with all.
 */

export type Method = 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';

/** One address; parts in brackets stand for any text without a slash. */
export interface Route {
  readonly path: string;
  readonly methods: Readonly<Partial<Record<Method, string>>>;
}

export const ROUTES: readonly Route[] = [
  {
    path: '/api/health',
    methods: {
      GET: 'Whether the server works: since when it runs, whether its database answers, how many builds and sums run or wait, its memory in bytes, and the longest that a request had to wait for the process in the last five seconds, in milliseconds.',
    },
  },
  {
    path: '/api/layouts',
    methods: { POST: 'Puts a new layout on the shelf, from a `document` with a `note`.' },
  },
  {
    path: '/api/layouts/[id]',
    methods: {
      GET: 'The layout at its revision in force.',
      DELETE: 'Puts the layout away.',
      PUT: 'Brings it back.',
    },
  },
  { path: '/api/layouts/[id]/document', methods: { GET: 'The document in force, to be kept as a file.' } },
  { path: '/api/layouts/[id]/head', methods: { POST: 'Undoes or redoes: another revision comes into force.' } },
  { path: '/api/layouts/[id]/readable', methods: { POST: 'Goes on from the newest revision that can be read.' } },
  {
    path: '/api/layouts/[id]/revisions',
    methods: { GET: 'All revisions.', POST: 'Saves a document as the next revision.' },
  },
  {
    path: '/api/layouts/[id]/revisions/[number]',
    methods: { GET: 'The document of one revision.', PATCH: 'Names it.' },
  },
  { path: '/api/builds', methods: { POST: 'Orders the image of a revision.' } },
  {
    path: '/api/builds/[id]',
    methods: { GET: 'How far it is, and its report.', DELETE: 'Deletes it, and its image.' },
  },
  { path: '/api/builds/[id]/cancel', methods: { POST: 'Cancels it.' } },
  {
    path: '/api/builds/[id]/digest',
    methods: { POST: 'Computes the SHA-256 of its image.', DELETE: 'Stops that.' },
  },
  { path: '/api/images/[id]', methods: { GET: 'The image of a build, raw or as gzip (`as`).' } },
  {
    path: '/api/files/[name]',
    methods: { PUT: 'Takes an image file up, to be surveyed.', DELETE: 'Deletes one.' },
  },
  { path: '/api/surveys', methods: { GET: 'What is in an image.' } },
  { path: '/api/surveys/sector', methods: { GET: 'One sector of it, field by field.' } },
  { path: '/api/surveys/keep', methods: { POST: 'Makes a layout that keeps all that is in an image.' } },
  {
    path: '/api/surveys/check',
    methods: {
      GET: 'How far the check of a volume is, and what it found.',
      POST: 'Starts the check of all of an ext volume.',
      DELETE: 'Stops it.',
    },
  },
  { path: '/api/surveys/room', methods: { GET: 'Where the room of a volume is, and how small an ext can be.' } },
  { path: '/api/surveys/repack', methods: { POST: 'Orders an ext volume in another length, as an image of its own.' } },
  { path: '/api/surveys/changes', methods: { POST: 'Orders an image that is mended, cut or cleared.' } },
  { path: '/api/changes', methods: { POST: 'Orders an image that is changed as a layout says.' } },
  { path: '/api/contents/file', methods: { PUT: 'Puts a file among the contents of a volume.' } },
  { path: '/api/contents/folder', methods: { PUT: 'Puts files in, sent as a tar.' } },
  { path: '/api/contents/archive', methods: { PUT: 'Puts in what an archive holds.' } },
  { path: '/api/contents/blob', methods: { PUT: 'Takes a file up that a slot, or boot code, is made of.' } },
  { path: '/api/contents/layout', methods: { PUT: 'Puts a layout on the shelf together with its files.' } },
  { path: '/api/contents/stored', methods: { GET: 'A stored file, or a part of it.' } },
  { path: '/api/contents/volume', methods: { GET: 'A file of a volume in an image.' } },
  { path: '/api/contents/blobs/[sha256]', methods: { GET: 'What a stored file is.' } },
  { path: '/api/contents/from-volume', methods: { POST: 'Takes files over from a volume of an image.' } },
  { path: '/api/contents/listing', methods: { GET: 'A folder of a volume in an image.' } },
  { path: '/api/contents/sources', methods: { GET: 'Volumes of the images at hand.' } },
  { path: '/api/contents/trees', methods: { POST: 'Changes a list of files; the new list has another name.' } },
  { path: '/api/contents/trees/[sha256]', methods: { GET: 'A list of files.' } },
  {
    path: '/api/data',
    methods: {
      GET: 'What the data folder holds.',
      POST: 'An order about it: check, sweep, trash, builds that are over, limits.',
    },
  },
  { path: '/api/data/check', methods: { GET: 'How far the check is, and what it found.' } },
  { path: '/api/bench', methods: { GET: 'Media of the bench.' } },
];

/** Methods that pages take. */
export const PAGE_METHODS: readonly Method[] = ['GET'];

/** All that may be asked of an address that takes these. */
export function allowed(methods: readonly Method[]): readonly string[] {
  return [...(methods.includes('GET') ? ['GET', 'HEAD'] : []), ...methods.filter((one) => one !== 'GET'), 'OPTIONS'];
}

/** Parts of an address that stand in brackets, by their names; undefined where it is another address. */
function partsOf(path: string, segments: readonly string[]): Record<string, string> | undefined {
  const names = path.split('/').slice(1);
  if (names.length !== segments.length) return undefined;
  const parts: Record<string, string> = {};
  for (const [i, name] of names.entries()) {
    const segment = segments[i]!;
    if (name.startsWith('[')) {
      if (segment === '') return undefined;
      parts[name.slice(1, -1)] = segment;
    } else if (name !== segment) return undefined;
  }
  return parts;
}

/** The route of an address whose segments are decoded, with its parts; a route without brackets goes before one with them. */
export function routeOf(
  segments: readonly string[],
): { readonly route: Route; readonly parts: Readonly<Record<string, string>> } | undefined {
  const matching = ROUTES.flatMap((route) => {
    const parts = partsOf(route.path, segments);
    return parts ? [{ route, parts }] : [];
  });
  return matching.sort((a, b) => Object.keys(a.parts).length - Object.keys(b.parts).length)[0];
}
