import { answer } from '@/server/http';
import { Problem } from '@/server/problem';

/** What stands at no path of the API is told as everything else is. */
const nothing = (request: Request) =>
  answer(() => {
    throw new Problem(
      404,
      'path-unknown',
      `There is nothing at ${new URL(request.url).pathname}.`,
      'The API begins at /api/v1; /api/v1/openapi.json says what there is.',
    );
  });

export { nothing as DELETE, nothing as GET, nothing as PATCH, nothing as POST, nothing as PUT };
