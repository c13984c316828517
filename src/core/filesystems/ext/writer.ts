/** ext2, ext3 and ext4 as they are written. */
import { shifted } from '../../bytes/extents';
import { uuidBytes } from '../../bytes/guid';
import { accountOfOne } from '../account';
import type { Writer } from '../kind';
import { extAccount } from './account';
import { formatExt } from './format';
import type { ExtMade } from './kind';
import { storedExtLabel } from './label';
import { EXT_NAMES } from './names';
import { planExt } from './plan';
import type { ExtContent } from './shape';

export const EXT_WRITER: Writer<ExtContent, ExtMade> = {
  names: EXT_NAMES,
  room({ version }, { geometry }, tree) {
    if (!geometry.ok) return undefined;
    const { clusterBytes, clusters } = geometry.value;
    const { used, slack, misfit, nodes } = planExt(geometry.value, tree);
    return { kind: version, tree, clusterBytes, clusters, used, slack, misfit, rootShort: 0, troubles: nodes.troubles };
  },
  ranges(content, { start, sectorSize, date }, made, { tree }) {
    if (!made?.geometry.ok) return [];
    const { uuid, label = '', times, rootUser = 0, rootGroup = 0, checkDays = 0, tables } = content;
    const identity = {
      uuid: uuidBytes(uuid),
      label: storedExtLabel(label).bytes,
      date,
      keepsTimes: times !== undefined,
      rootUser,
      rootGroup,
      checkDays,
      leavesTables: tables !== undefined,
    };
    const base = start * sectorSize;
    return formatExt(made.geometry.value, identity, tree).map((one) => ({ ...one, extent: shifted(one.extent, base) }));
  },
  account: ({ version }, { sectors, sectorSize }, made, room) =>
    made?.geometry.ok
      ? extAccount(version, made.geometry.value, room)
      : accountOfOne('Left to its system', sectors * sectorSize),
};
