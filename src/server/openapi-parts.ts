/** Pieces of the description of the API (OpenAPI 3.1). */
export const ref = (name: string) => ({ $ref: `#/components/schemas/${name}` });
export const jsonBody = (schema: object) => ({ required: true, content: { 'application/json': { schema } } });
export const ok = (description: string, schema?: object) => ({
  description,
  ...(schema ? { content: { 'application/json': { schema } } } : {}),
});
export const problems = {
  '4XX': {
    description: 'Refused: what, why, and what would mend it',
    content: { 'application/problem+json': { schema: ref('Problem') } },
  },
};
export const path = (name: string) => ({ name, in: 'path', required: true, schema: { type: 'string' } });
export const query = (name: string, description: string) => ({
  name,
  in: 'query',
  schema: { type: 'string' },
  description,
});
export const get = (summary: string, parameters: object[] = []) => ({
  get: { summary, parameters, responses: { '200': ok(summary), ...problems } },
});
export const post = (summary: string, body: object | null, status = '200', parameters: object[] = []) => ({
  post: {
    summary,
    parameters,
    ...(body ? { requestBody: jsonBody(body) } : {}),
    responses: { [status]: ok(summary), ...problems },
  },
});
