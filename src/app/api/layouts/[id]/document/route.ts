import { currentContext } from '@/server/context';
import { errorAnswer, readPath } from '@/server/http';
import { LayoutPath } from '@/server/requests/paths';
import { documentText } from '@/server/layouts';

/** The document as a file. */
export async function GET(_: Request, { params }: { params: Promise<object> }) {
  try {
    const { id } = await readPath(params, LayoutPath);
    const { text, name } = await documentText(currentContext(), id);
    return new Response(text, {
      headers: {
        'content-type': 'application/json; charset=utf-8',
        'content-disposition': `attachment; filename="${name}.loess.json"`,
        'cache-control': 'no-store',
      },
    });
  } catch (error) {
    const { status, answer } = errorAnswer(error);
    return Response.json(answer, { status });
  }
}
