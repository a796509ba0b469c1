import { authorizationCode } from './authorization-code.ts';
import { clientCredentials } from './client-credentials.ts';
import type { Grant, GrantKind } from './definition.ts';
import { device } from './device.ts';
import { jwtBearer } from './jwt-bearer.ts';
import { password } from './password.ts';
import { refreshToken } from './refresh-token.ts';
import { tokenExchange } from './token-exchange.ts';

/** Every grant; a new one is a file and a line here. */
export const grants: Readonly<Record<Grant, GrantKind>> = {
  'client-credentials': clientCredentials,
  'authorization-code': authorizationCode,
  device,
  'refresh-token': refreshToken,
  password,
  'jwt-bearer': jwtBearer,
  'token-exchange': tokenExchange,
};
