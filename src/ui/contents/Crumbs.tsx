'use client';

/** The way from the root of a volume to a folder, each step of it to be gone back to. */
export function Crumbs({
  label,
  path,
  go,
}: {
  readonly label: string;
  readonly path: string;
  readonly go: (path: string) => void;
}) {
  const names = path === '' ? [] : path.split('/');
  return (
    <nav aria-label={label} className="flex flex-wrap items-center gap-1 font-mono text-sm">
      <button type="button" className="rounded-sm hover:underline" onClick={() => go('')}>
        volume
      </button>
      {names.map((name, i) => (
        <span key={i} className="flex gap-1">
          <span className="text-soft">/</span>
          <button
            type="button"
            className="rounded-sm hover:underline"
            onClick={() => go(names.slice(0, i + 1).join('/'))}
          >
            {name}
          </button>
        </span>
      ))}
    </nav>
  );
}
