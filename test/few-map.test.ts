import fc from 'fast-check';
import { FewMap } from '../src/core/few-map.ts';

/** What is done to a map: an entry set, or taken away. */
const deeds = fc.array(fc.oneof(fc.record({ set: fc.nat(9), to: fc.string() }), fc.record({ delete: fc.nat(9) })));

test('a map of few entries is as any other map', () => {
  fc.assert(
    fc.property(deeds, (list) => {
      const [few, map] = [new FewMap<number, string>(), new Map<number, string>()];
      for (const deed of list) {
        if ('set' in deed) [few, map].forEach((each) => void each.set(deed.set, deed.to));
        else [few, map].forEach((each) => void each.delete(deed.delete));
        expect([few.size, few.oldest, few.values()]).toEqual([map.size, [...map.keys()][0], [...map.values()]]);
        for (const [key, value] of map) expect(few.get(key)).toBe(value);
        expect(few.get(10)).toBeUndefined();
      }
    }),
  );
});
