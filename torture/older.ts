/** A data folder as an older version left it, to be migrated. */
import { createClient } from '@libsql/client';
import { urlOf } from '@/keeping/database';
import { dataFolderAt } from '@/files/data-folder';
import { workOn } from './work';

/** Fills a folder and takes the newest tables from its database. */
export async function prepareOlder(data: string): Promise<void> {
  await workOn(data, () => undefined, 7, 6);
  const client = createClient({ url: urlOf(dataFolderAt(data).database) });
  await client.execute('DROP TABLE steps');
  await client.execute('DROP TABLE settings');
  await client.execute(
    'DELETE FROM __drizzle_migrations WHERE created_at = (SELECT max(created_at) FROM __drizzle_migrations)',
  );
  await client.execute('PRAGMA wal_checkpoint(TRUNCATE)');
  client.close();
}
