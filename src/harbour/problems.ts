import type { ErrorRequestHandler, Response } from 'express';

/** Answers with a problem document (RFC 9457). */
export function problem(response: Response, status: number, title: string, detail: string, more: object = {}): void {
  response
    .status(status)
    .type('application/problem+json')
    .send(JSON.stringify({ type: 'about:blank', title, status, detail, ...more }));
}

/** A body that does not parse, and whatever else a handler throws. */
export const problemOnError: ErrorRequestHandler = (
  error: { type?: string; status?: number; message: string },
  _request,
  response,
  next,
) => {
  if (response.headersSent) return next(error);
  if (error.type === 'entity.parse.failed')
    problem(response, 400, 'Bad Request', `The body is not JSON: ${error.message}`);
  else problem(response, error.status ?? 500, 'Error', error.message);
};
