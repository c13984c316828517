'use client';

import dynamic from 'next/dynamic';
import { useEffect, useState } from 'react';
import type { FolderView } from '@/contract/contents';
import type { VolumeRoomView } from '@/contract/surveys';
import { grouped } from '@/core/quantity/units';
import { getVolumeRoom } from '../api';
import { RepackSection } from './RepackSection';

/** The chart comes when it is wanted. */
const RoomChart = dynamic(() => import('../chart/RoomChart').then((one) => one.RoomChart), { ssr: false });
const RoomKey = dynamic(() => import('../chart/RoomChart').then((one) => one.RoomKey), { ssr: false });

/** Where the room of a volume is, and how small it can be made. */
export function RoomSection({ view }: { readonly view: FolderView }) {
  const { of, partition } = view;
  const [room, setRoom] = useState<VolumeRoomView>();
  const [refused, setRefused] = useState<string>();
  useEffect(() => {
    let isOver = false;
    void getVolumeRoom({ of, partition }).then((answer) => {
      if (isOver) return;
      if (answer.ok) setRoom(answer.value);
      else setRefused(answer.error.sentence);
    });
    return () => {
      isOver = true;
    };
  }, [of, partition]);
  const map = room?.map;
  return (
    <>
      <h2 className="text-base font-semibold">Where its room is</h2>
      {refused && (
        <p role="alert" className="mt-1 text-stop">
          {refused}
        </p>
      )}
      {!room && !refused && <p className="mt-1 text-soft">It is being looked at …</p>}
      {room && !map && (
        <p className="mt-1 text-risk">It cannot be told: what the volume says of its room does not hold together.</p>
      )}
      {map && (
        <>
          <div className="mt-1 h-[112px]">
            <RoomChart map={map} label={`How full each of ${grouped(map.cells.length)} stretches of the volume is`} />
          </div>
          <RoomKey map={map} />
        </>
      )}
      {room && view.canBeChecked && <RepackSection view={view} room={room} />}
    </>
  );
}
