import { writeLayout } from '@/core/layout/validate';
import { currentContext } from '@/server/context';
import { errorAnswer, readPath } from '@/server/http';
import { LayoutPath } from '@/server/requests/paths';
import { getLayout } from '@/server/layouts';

/** The document as a file. */
export async function GET(_: Request, { params }: { params: Promise<object> }) {
  try {
    const { id, document } = await getLayout(currentContext(), (await readPath(params, LayoutPath)).id);
    return new Response(writeLayout(document), {
      headers: {
        'content-type': 'application/json; charset=utf-8',
        'content-disposition': `attachment; filename="${id}.loess.json"`,
        'cache-control': 'no-store',
      },
    });
  } catch (error) {
    const { status, answer } = errorAnswer(error);
    return Response.json(answer, { status });
  }
}
