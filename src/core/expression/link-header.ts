import { httpLinkHeader } from '../packages.ts';

/**
 * The target of a relation in a Link header, as it stands there; undefined without one. RFC 8288 section 3: relation
 * types are compared without regard to case, and the first link of one counts.
 * @throws Error of the package where the header cannot be read.
 */
export function linkTarget(header: string, rel: string): string | undefined {
  const wanted = rel.toLowerCase();
  return httpLinkHeader()
    .parse(header)
    .refs.find((ref) => ref.rel?.toLowerCase() === wanted)?.uri;
}
