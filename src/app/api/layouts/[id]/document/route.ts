import { writeLayout } from '@/core/layout/validate';
import { currentContext } from '@/server/context';
import { errorAnswer } from '@/server/http';
import { getLayout } from '@/server/layouts';

/** The document as a file. */
export async function GET(_: Request, { params }: { params: Promise<{ id: string }> }) {
  try {
    const { id, document } = await getLayout(currentContext(), (await params).id);
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
