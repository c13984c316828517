/** What only chance and the clock can give: the core knows neither. */
import type { Fresh } from '@/core/advice/answers';

/** Ids and the date of a new layout. */
export function fresh(): Fresh {
  const [n] = crypto.getRandomValues(new Uint32Array(1));
  return {
    signature: (n! || 1).toString(16).padStart(8, '0'),
    diskId: crypto.randomUUID(),
    date: new Date().toISOString().slice(0, 19),
  };
}
