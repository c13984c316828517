'use client';

import { Command } from 'cmdk';
import { Dialog } from 'radix-ui';
import { type RefObject, useState } from 'react';
import { Key } from '../Key';
import type { Order } from './screen';

/** All orders by name: type a part of one, Enter closes the palette and runs it. */
export function Palette({
  close,
  orders,
  typedAheadRef,
}: {
  readonly close: () => void;
  readonly orders: readonly Order[];
  /** What was typed before the palette was there; undefined when nothing waits for it. */
  readonly typedAheadRef: RefObject<string | undefined>;
}) {
  const [text, setText] = useState('');
  const groups = [...new Set(orders.map((one) => one.group))];
  return (
    <Dialog.Root open onOpenChange={close}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <Dialog.Content
          aria-label="Orders"
          aria-describedby={undefined}
          // Who opened it gives the focus back, before an order runs.
          onCloseAutoFocus={(event) => event.preventDefault()}
          className="fixed top-[12%] left-1/2 z-50 w-[min(560px,calc(100vw-24px))] -translate-x-1/2 overflow-hidden rounded-[8px] border border-edge bg-card shadow-xl"
        >
          <Dialog.Title className="sr-only">Orders</Dialog.Title>
          <Command label="Orders">
            <Command.Input
              value={text}
              onValueChange={setText}
              onFocus={() => {
                setText(typedAheadRef.current ?? '');
                typedAheadRef.current = undefined;
              }}
              placeholder="What is to be done?"
              aria-label="What is to be done?"
              className="w-full border-b border-line bg-card px-4 py-2.5 focus-visible:-outline-offset-2"
            />
            <Command.List className="max-h-[380px] overflow-y-auto p-1.5" aria-label="Orders">
              <Command.Empty className="px-3 py-2 text-soft">Nothing of that name.</Command.Empty>
              {groups.map((group) => (
                <Command.Group
                  key={group}
                  heading={group}
                  className="[&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:pt-1.5 [&_[cmdk-group-heading]]:text-xs [&_[cmdk-group-heading]]:text-soft"
                >
                  {orders
                    .filter((one) => one.group === group)
                    .map((one) => (
                      <Command.Item
                        key={one.name}
                        value={one.name}
                        onSelect={() => {
                          close();
                          one.run();
                        }}
                        className="flex cursor-default items-center justify-between rounded px-2 py-1 data-[selected=true]:bg-selected data-[selected=true]:outline-2 data-[selected=true]:-outline-offset-2 data-[selected=true]:outline-clay"
                      >
                        {one.name} {one.keys && <Key>{one.keys}</Key>}
                      </Command.Item>
                    ))}
                </Command.Group>
              ))}
            </Command.List>
          </Command>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
