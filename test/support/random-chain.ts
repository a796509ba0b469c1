/**
 * Chains that nobody would write, and that are right all the same: a seed gives a chain. Steps of every kind that needs no
 * terminal and no disk stand in any order and depth, each reads names that are bound before it.
 */
export function randomChain(seed: number): string {
  return new Writer(seed).chain();
}

type Choice = () => string;

class Writer {
  private state: number;
  /** Names that can be read, and how many were made. */
  private scope: readonly string[] = ['size'];
  private names = 0;
  /** Whether other steps are done at the same time: how far they are when one stops or fails is a matter of luck. */
  private isBeside = false;

  constructor(seed: number) {
    this.state = seed >>> 0;
  }

  chain(): string {
    const inputs = 'inputs: { size: { type: integer, default: 3 } }';
    const lines = ['api: harbour', inputs, 'steps:', ...this.steps(0, 2, 4)];
    if (this.chance(0.3)) lines.push('cleanup:', ...this.outside(() => this.steps(3, 2, 1)));
    if (this.chance(0.5)) lines.push(`outputs: { a: ${this.quoted(this.value())}, b: ${this.quoted(this.value())} }`);
    return `${lines.join('\n')}\n`;
  }

  /** A linear congruential generator (Numerical Recipes), which is random enough for choices. */
  private random(): number {
    this.state = (Math.imul(this.state, 1664525) + 1013904223) >>> 0;
    return this.state / 2 ** 32;
  }

  private chance(part: number): boolean {
    return this.random() < part;
  }

  private pick<T>(all: readonly T[]): T {
    return all[Math.floor(this.random() * all.length)]!;
  }

  private fresh(): string {
    return `n${++this.names}`;
  }

  private quoted(text: string): string {
    return JSON.stringify(text);
  }

  private beside<T>(isBeside: boolean, work: () => T): T {
    const before = this.isBeside;
    this.isBeside ||= isBeside;
    const result = work();
    this.isBeside = before;
    return result;
  }

  /** Does something whose names are gone behind it. */
  private outside<T>(work: () => T): T {
    const before = this.scope;
    const result = work();
    this.scope = before;
    return result;
  }

  private known(): string {
    return this.pick(this.scope);
  }

  private value(): string {
    const plain = () => this.pick(['1', '2.50', "'t'", '[1, 2, 3]', 'true', 'null', '9007199254740993', 'uuid()']);
    const one = () => (this.chance(0.6) ? this.known() : plain());
    const list = () => `parse_json('[{"id": "a", "n": 1}, {"id": "b", "n": 2}, {"id": "a", "n": 3}]')`;
    return this.pick<Choice>([
      () => `json(${one()})`,
      () => `type_of(${one()})`,
      () => `[${one()}, 2]`,
      () => `if(type_of(${one()}) == 'number', 1, 'no')`,
      () => `string(1) + json(${one()})`,
      list,
    ])();
  }

  private list(): string {
    const of = (text: string) => () => text;
    return this.pick<Choice>([
      of('range(3)'),
      of('range(0)'),
      of('range(9)'),
      of("['a', 'b', 'c']"),
      of(`parse_json('[{"id": "a"}, {"id": "b"}, {"id": "a"}]')`),
      () => `[${this.known()}, 1]`,
    ])();
  }

  private condition(): string {
    return this.pick<Choice>([
      () => `type_of(${this.known()}) ${this.pick(['==', '!='])} 'text'`,
      () => `exists(${this.known()})`,
      () => `length(json(${this.known()})) > ${this.pick([0, 1, 3, 6])}`,
    ])();
  }

  private text(): string {
    return this.pick<Choice>([
      () => 'plain',
      () => `{json(${this.known()})}`,
      () => `{${this.known()}}`,
      () => `a {type_of(${this.known()})} b`,
    ])();
  }

  private steps(depth: number, indent: number, most: number): string[] {
    return Array.from({ length: 1 + Math.floor(this.random() * most) }, () => this.step(depth, indent)).flat();
  }

  private step(depth: number, indent: number): string[] {
    const flat = [
      this.call,
      this.call,
      this.call,
      this.let,
      this.say,
      this.wait,
      ...(this.isBeside ? [] : [this.stop]),
    ];
    const deep = [this.each, this.each, this.each, this.parallel, this.repeat, this.branch];
    const lines = this.pick(depth > 3 ? flat : [...flat, ...deep]).call(this, depth);
    return lines.map((line) => ' '.repeat(indent) + line);
  }

  private call(): string[] {
    const name = this.fresh();
    const method = this.pick(['GET', 'GET', 'POST', 'PUT', 'DELETE']);
    const isRead = method === 'GET';
    const target = this.pick(['/x', '/x/{size}', '/x{?size}', ...(this.isBeside ? [] : ['/bad/7'])]);
    const lines = [`- call: ${name}`, `  request: ${this.quoted(`${method} ${target}`)}`];
    if ((method === 'POST' || method === 'PUT') && this.chance(0.5))
      lines.push(`  json: { a: ${this.quoted(this.text())} }`);
    if (this.chance(0.2)) lines.push(`  query: { q: ${this.quoted(this.pick(['{size}', 'a b', '{size} y']))} }`);
    const may = this.isBeside ? [] : ["$.flag != 'NO'"];
    if (this.chance(0.3)) lines.push(`  expect: [${this.pick(['$.level == 142', 'status == 200', ...may])}]`);
    if (isRead && this.chance(0.12))
      lines.push(`  poll: { until: $.level == ${this.isBeside ? 142 : this.pick([142, 1])}, every: 1ms, within: 5ms }`);
    else if (isRead && this.chance(0.12)) lines.push('  paging: { next: $.next ?? null, items: $.list }');
    if (!isRead && this.chance(0.3)) lines.push('  undo: DELETE /made/1');
    if (method === 'POST' && this.chance(0.3)) lines.push('  idempotency-key: true');
    if (this.chance(0.1)) lines.push('  retry: { tries: 2, wait: 1ms }');
    const how = this.random();
    if (how < 0.15) lines.push(`  when: ${this.quoted(this.condition())}`);
    else if (how < 0.25) lines.push('  on-failure: continue');
    else if (how < 0.8) {
      const kept = this.fresh();
      lines.push(`  keep: { ${kept}: ${this.pick(['$.level', '$.flag', '$.id', 'status', '$.level + 1'])} }`);
      this.scope = [...this.scope, kept];
    }
    return lines;
  }

  private let(): string[] {
    const name = this.fresh();
    const line = `- let: { ${name}: ${this.quoted(this.value())} }`;
    this.scope = [...this.scope, name];
    return [line];
  }

  private say(): string[] {
    return [`- say: ${this.quoted(this.text())}`];
  }

  private wait(): string[] {
    return ['- wait: 1ms'];
  }

  private stop(): string[] {
    const as = this.chance(0.5) ? ['  as: passed'] : [];
    return [`- stop: ${this.quoted(this.text())}`, ...as, `  when: ${this.quoted(this.condition())}`];
  }

  private each(depth: number): string[] {
    const item = this.fresh();
    const lines = [`- each: ${this.quoted(`${item} in ${this.list()}`)}`];
    const isBeside = this.chance(0.4);
    if (isBeside) lines.push(`  concurrency: ${this.pick([2, 4])}`);
    if (this.chance(0.4)) lines.push('  on-failure: continue');
    if (this.chance(0.2)) lines.push('  identified-by: loop.number');
    if (this.chance(0.1)) lines.push('  max-consecutive-failures: 2');
    const all = this.fresh();
    this.outside(() => {
      this.scope = [...this.scope, item];
      lines.push('  steps:', ...this.beside(isBeside, () => this.steps(depth + 1, 4, 3)));
      lines.push(`  gather: { ${all}: ${this.quoted(`{json(${this.known()})}`)} }`);
    });
    this.scope = [...this.scope, all];
    return lines;
  }

  private parallel(depth: number): string[] {
    const before = this.scope;
    const both = [0, 1].map(() => {
      this.scope = before;
      return { lines: this.beside(true, () => this.step(depth + 1, 4)), scope: this.scope };
    });
    this.scope = [...new Set(both.flatMap(({ scope }) => scope))];
    return ['- parallel:', ...both.flatMap(({ lines }) => lines)];
  }

  private repeat(depth: number): string[] {
    const [name, count] = [this.fresh(), this.fresh()];
    const lines = [
      `- repeat: ${name}`,
      `  carry: { ${count}: 0 }`,
      '  steps:',
      `    - let: { ${count}: ${count} + 1 }`,
    ];
    this.outside(() => {
      this.scope = [...this.scope, count];
      lines.push(...this.steps(depth + 1, 4, 1));
    });
    this.scope = [...this.scope, count];
    return [...lines, `  until: ${count} >= ${this.isBeside ? 2 : this.pick([1, 2, 9])}`, '  max-rounds: 3'];
  }

  private branch(depth: number): string[] {
    const arm = (key: string) => [`  ${key}:`, ...this.outside(() => this.steps(depth + 1, 4, 2))];
    return [`- if: ${this.quoted(this.condition())}`, ...arm('steps'), ...(this.chance(0.4) ? arm('otherwise') : [])];
  }
}
