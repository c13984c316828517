import { useState } from 'react';

const said = new Set<string>();

/** A yes or no that stays for as long as the page lives, wherever it is asked for by this name; no at first. */
export function useRemembered(name: string): readonly [boolean, (is: boolean) => void] {
  const [is, setIs] = useState(() => said.has(name));
  return [
    is,
    (next) => {
      if (next) said.add(name);
      else said.delete(name);
      setIs(next);
    },
  ];
}
