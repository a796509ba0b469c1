import type { GrantKind } from './definition.ts';

/** Seconds between two questions, unless the server says otherwise (RFC 8628 section 3.2), and what slow_down adds. */
const DEFAULT_INTERVAL = 5;

/** RFC 8628: a person types a code in on another device. */
export const device: GrantKind = {
  needs: ['client-id', 'device-url'],
  needsPerson: true,
  request: async ({ oauth, server, client, clientAuth, host, parameters, options }) => {
    const asked = await oauth.deviceAuthorizationRequest(server, client, clientAuth, { ...parameters }, options);
    const given = await oauth.processDeviceAuthorizationResponse(server, client, asked);
    host.mark('device_code', given.device_code);
    host.help.showCode(given.verification_uri_complete ?? given.verification_uri, given.user_code);
    let interval = given.interval ?? DEFAULT_INTERVAL;
    const until = host.clock.monotonicMs() + given.expires_in * 1000;
    while (host.clock.monotonicMs() < until && !host.signal.aborted) {
      await host.clock.sleep(interval * 1000, host.signal);
      const response = await oauth.deviceCodeGrantRequest(server, client, clientAuth, given.device_code, options);
      const said = response.status === 400 ? ((await response.clone().json()) as { error?: string }).error : undefined;
      if (said === 'slow_down') interval += DEFAULT_INTERVAL;
      else if (said !== 'authorization_pending') return { response };
    }
    const message = 'The code was not entered in time';
    return { problem: { code: 'sign-in-needed', message, advice: 'Run the command again, and enter the code.' } };
  },
};
