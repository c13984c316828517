import { currentContext } from '@/server/context';
import { errorAnswer, readPath } from '@/server/http';
import { LayoutPath } from '@/server/requests/paths';
import { documentText } from '@/server/layouts';

/** The document as a file. */
export async function GET(_: Request, { params }: { params: Promise<object> }) {
  try {
    const { id } = await readPath(params, LayoutPath);
    return new Response(await documentText(currentContext(), id), {
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
