import fc from 'fast-check';
import { EventReader, readEvents } from '../../src/core/http/event-stream.ts';

const message = (id: string, data: unknown, event = 'message') => ({ event, id, data });

test.each([
  ['the id of an event without data holds for the next', 'id: 5\n\ndata: x\n\n', [message('5', 'x')]],
  ['an id stays until another comes', 'id: 5\ndata: x\n\ndata: y\n\n', [message('5', 'x'), message('5', 'y')]],
  ['an id with NULL is none', 'id: 5\ndata: x\n\nid: 6\0\ndata: y\n\n', [message('5', 'x'), message('5', 'y')]],
  ['a byte order mark is no part of the first field', '\ufeffdata: x\n\n', [message('', 'x')]],
  [
    'lines of data are joined, one blank behind the colon taken',
    'data: a\ndata:  b\ndata\n\n',
    [message('', 'a\n b\n')],
  ],
  ['an event without data is none, and its name does not stay', 'event: tick\n\ndata: x\n\n', [message('', 'x')]],
  [
    'comments and unknown fields are passed over',
    ': hi\nretry: 7\nother: 1\nevent: e\ndata: 1\n\n',
    [message('', 1, 'e')],
  ],
  ['an event that is not ended is none', 'data: x\n\ndata: y\n', [message('', 'x')]],
])('%s', (_what, text, events) => {
  expect(readEvents(text)).toEqual(events);
});

test('however a stream is cut, and whatever ends its lines, its events are the same', () => {
  const line = fc.constantFrom('data: 1', 'data:x', 'data', 'event: e', 'id: 7', ': c', '', '');
  const cuts = fc.array(fc.nat(60), { maxLength: 6 });
  fc.assert(
    fc.property(fc.array(line, { maxLength: 12 }), fc.constantFrom('\n', '\r', '\r\n'), cuts, (lines, end, at) => {
      const text = lines.map((each) => each + end).join('') + '\n';
      const places = [0, ...at.filter((each) => each < text.length).sort((a, b) => a - b), text.length];
      const reader = new EventReader();
      const pieces = places.slice(1).map((to, i) => text.slice(places[i], to));
      expect(pieces.flatMap((piece) => reader.push(piece))).toEqual(readEvents(text));
    }),
  );
});
