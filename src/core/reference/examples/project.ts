/** How most examples begin: an API, and below it what the example is about. */
const HARBOUR = `apis:
  harbour:
    url: https://harbour.example/v1`;

/** How examples of a client begin. */
const OAUTH2 = `${HARBOUR}
    auth:
      oauth2:
        grant: client-credentials
        token-url: https://id.harbour.example/token
        client-id: quay
        client-secret: '{secret.CLIENT_SECRET}'`;

/** Examples of the project file, by mapping; each is a whole file. The first that has a key is shown with it. */
export const projectExamples: Readonly<Record<string, readonly string[]>> = {
  'The project file': [
    `zone: Europe/Lisbon
apis:
  harbour:
    url: https://harbour.example/v1
secrets: { QUAY_KEY: [harbour] }`,
    `redis: rediss://:{secret.REDIS_PASSWORD}@redis.example:6380
${HARBOUR}`,
    `${HARBOUR}
secrets: { QUAY_KEY: { command: [read-secret, quay/key], for: [harbour] } }`,
  ],
  'An API': [
    `${HARBOUR}
    connect-to: 127.0.0.1:8443`,
    `${HARBOUR}
    contract: openapi/harbour.yaml`,
    `${HARBOUR}
    unix: /run/harbour.sock`,
    `apis:
  harbour:
    about: vessels, berths and clearances
    auth: { bearer: '{secret.HARBOUR_TOKEN}' }
    url: https://harbour.example/v1`,
    `${HARBOUR}
    headers: { Accept: application/json }
    query: { tenant: '{setting.tenant}' }
    settings: { tenant: north }`,
    `${HARBOUR}
    rate-limit: [8/s, 1000/day]
    resets: '06:00 UTC'
    concurrency: 4
    max-wait: 2m`,
    `redis: redis://redis.example:6379
${HARBOUR}
    total-concurrency: 12`,
    `${HARBOUR}
    timeout: 10s
    retry: { tries: 4, wait: 250ms to 10s }
    redirects: stop`,
    `${HARBOUR}
    expect: ['$.error == null']
    error-message: $.detail`,
    `${HARBOUR}
    proxy: http://proxy.example:3128
    http2: true
    changes: never`,
    `${HARBOUR}
    tls: { ca: authority.pem }`,
    `apis:
  harbour:
    deployments:
      sandbox: { url: 'http://127.0.0.1:4090/v1' }
      live: { url: 'https://harbour.example/v1', changes: when-allowed }
    default-deployment: sandbox`,
  ],
  'A deployment': [
    `apis:
  harbour:
    deployments:
      live: { url: https://harbour.example/v1, connect-to: 127.0.0.1:8443 }
      near: { url: http://harbour.example/v1, unix: /run/harbour.sock, contract: openapi/next.yaml }`,
    `apis:
  harbour:
    deployments:
      live:
        url: https://harbour.example/v1
        auth: { bearer: '{secret.LIVE_TOKEN}' }
        changes: when-allowed
        settings: { pier: outer-pier }`,
    `apis:
  harbour:
    deployments:
      live:
        url: https://harbour.example/v1
        headers: { Accept: application/json }
        query: { tenant: north }
        timeout: 20s
        rate-limit: 2/s
        resets: '00:00 UTC'
        concurrency: 2`,
    `redis: redis://redis.example:6379
apis:
  harbour:
    deployments:
      live: { url: https://harbour.example/v1, total-concurrency: 6 }`,
    `apis:
  harbour:
    deployments:
      live:
        url: https://harbour.example/v1
        max-wait: 5m
        retry: { tries: 2 }
        redirects: stop
        proxy: none
        http2: false`,
    `apis:
  harbour:
    deployments:
      live:
        url: https://harbour.example/v1
        tls: { ca: authority.pem }
        expect: ['$.error == null']
        error-message: $.detail`,
  ],
  auth: [
    `${HARBOUR}
    auth: { bearer: '{secret.HARBOUR_TOKEN}' }`,
    `${HARBOUR}
    auth: { basic: { user: mole, password: '{secret.PASSWORD}' } }`,
    `${HARBOUR}
    auth: { digest: { user: mole, password: '{secret.PASSWORD}' } }`,
    `${HARBOUR}
    auth: { api-key: { header: Harbour-Key, value: '{secret.KEY}' } }`,
    OAUTH2,
    `${HARBOUR}
    auth:
      signature:
        key-id: quay-1
        key: '{secret.SIGNING_KEY}'
        algorithm: hmac-sha256
        covers: ['@method', '@path']`,
    `${HARBOUR}
    auth:
      chain: sign-in.chain.yaml
      inputs: { user: mole }
      attach: { headers: { Harbour-Session: '{outputs.session}' } }
      valid-for: 10m`,
  ],
  'auth: basic': [
    `${HARBOUR}
    auth: { basic: { user: mole, password: '{secret.PASSWORD}' } }`,
  ],
  'auth: digest': [
    `${HARBOUR}
    auth: { digest: { user: mole, password: '{secret.PASSWORD}' } }`,
  ],
  'auth: api-key': [
    `${HARBOUR}
    auth: { api-key: { header: Harbour-Key, value: '{secret.KEY}' } }`,
    `${HARBOUR}
    auth: { api-key: { query: key, value: '{secret.KEY}' } }`,
    `${HARBOUR}
    auth: { api-key: { cookie: session, value: '{secret.SESSION}' } }`,
  ],
  'auth: oauth2': [
    `${OAUTH2}
        client-auth: post
        scope: arrivals clearance
        parameters: { audience: harbour }`,
    `${HARBOUR}
    auth:
      oauth2:
        grant: client-credentials
        token-url: https://id.harbour.example/token
        client-id: quay
        client-auth: private-key-jwt
        key: '{secret.CLIENT_KEY}'
        key-id: quay-1`,
    `${HARBOUR}
    auth:
      oauth2:
        grant: authorization-code
        authorize-url: https://id.harbour.example/authorize
        token-url: https://id.harbour.example/token
        redirect-port: 4091
        client-id: quay
        issuer: https://id.harbour.example`,
    `${HARBOUR}
    auth:
      oauth2:
        grant: device
        device-url: https://id.harbour.example/device
        token-url: https://id.harbour.example/token
        client-id: quay`,
    `${HARBOUR}
    auth:
      oauth2:
        grant: refresh-token
        token-url: https://id.harbour.example/token
        client-id: quay
        refresh-token: '{secret.REFRESH_TOKEN}'`,
    `${HARBOUR}
    auth:
      oauth2:
        grant: password
        token-url: https://id.harbour.example/token
        client-id: quay
        user: mole
        password: '{secret.PASSWORD}'`,
    `${HARBOUR}
    auth:
      oauth2:
        grant: jwt-bearer
        token-url: https://id.harbour.example/token
        key: '{secret.CLIENT_KEY}'
        key-id: quay-1
        claims: { iss: quay, sub: mole, exp: '{now() + 10m}' }`,
    `${HARBOUR}
    auth:
      oauth2:
        grant: jwt-bearer
        token-url: https://id.harbour.example/token
        assertion: '{secret.ASSERTION}'`,
    `${HARBOUR}
    auth:
      oauth2:
        grant: token-exchange
        token-url: https://id.harbour.example/token
        client-id: quay
        subject-token: '{secret.DESK_TOKEN}'
        subject-token-type: urn:ietf:params:oauth:token-type:access_token
        actor-token: '{secret.CLERK_TOKEN}'
        actor-token-type: urn:ietf:params:oauth:token-type:jwt
        parameters: { audience: harbour }`,
  ],
  'auth: signature': [
    `${HARBOUR}
    auth:
      signature:
        key-id: quay-1
        key: '{secret.SIGNING_KEY}'
        key-encoding: base64
        algorithm: hmac-sha256
        covers: ['@method', '@path', content-digest]
        label: quay
        tag: harbour`,
  ],
  'auth: attach': [
    `${HARBOUR}
    auth:
      attach:
        headers:
          X-Signature: "{hmac('sha256', secret.KEY, request.body)}"
        query: { at: '{epoch(request.time)}' }`,
    `${HARBOUR}
    auth:
      attach:
        let:
          day_key: hmac('sha256', secret.KEY, formatted(request.time, 'yyyyMMdd', 'UTC'))
        headers: { X-Signature: "{hex(hmac('sha256', day_key, request.body))}" }`,
  ],
  contract: [
    `${HARBOUR}
    contract: { file: openapi/harbour.yaml, mode: warn }`,
  ],
  timeout: [
    `${HARBOUR}
    timeout: { connect: 2s, response: 30s, idle: 10s, whole: 1m }`,
  ],
  tls: [
    `${HARBOUR}
    tls: { ca: authority.pem, cert: client.pem, key: client.key }`,
    `${HARBOUR}
    tls: { verify: false }`,
  ],
};
