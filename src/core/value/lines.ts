/** The lines of a text that comes in pieces, without their ends: those of each piece, and what stands behind the last line break. */
export async function* linesIn(texts: AsyncIterable<string>): AsyncGenerator<readonly string[]> {
  let rest = '';
  for await (const text of texts) {
    const lines = (rest + text).split('\n');
    rest = lines.pop()!;
    yield lines;
  }
  if (rest !== '') yield [rest];
}
