import { currentContext } from '@/server/context';
import { listLayouts } from '@/server/layouts';
export const dynamic = 'force-dynamic';
export default async function Page() { const l = await listLayouts(currentContext()); return <main>{l.map(x => <p key={x.id}>{x.document.name}</p>)}</main>; }
