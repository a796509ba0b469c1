/** What bytes are by their own form, whatever a header says of them. */
type ContentForm = Readonly<{
  /** In words: `PNG image`. */
  name: string;
  /** The ending of a file that holds it. */
  ending: string;
  /** Whether a program of the system may show or play it; what is unpacked is left to who knows what is in it. */
  isShown: boolean;
  /** Pixels, where the form tells them. */
  size?: Readonly<{ width: number; height: number }>;
}>;

type Form = Omit<ContentForm, 'size' | 'isShown'> &
  Readonly<{
    /** What the bytes begin with, from an offset on; `?` is any byte. */
    begins: string;
    at?: number;
    sizeOf?: (view: DataView) => ContentForm['size'];
    isArchive?: true;
  }>;

/** Forms by how they begin, each as its standard has it; the first that fits. */
const forms: readonly Form[] = [
  // PNG (ISO/IEC 15948), 11.2.2: width and height begin the first chunk.
  { name: 'PNG image', ending: 'png', begins: '\x89PNG\r\n\x1a\n', sizeOf: (view) => pixels(view, 16, 20, 'Uint32') },
  { name: 'JPEG image', ending: 'jpg', begins: '\xff\xd8\xff', sizeOf: jpegSize },
  // GIF89a, 18: the logical screen.
  { name: 'GIF image', ending: 'gif', begins: 'GIF8', sizeOf: (view) => pixels(view, 6, 8, 'Uint16', true) },
  { name: 'WebP image', ending: 'webp', begins: 'RIFF????WEBP', sizeOf: webpSize },
  { name: 'BMP image', ending: 'bmp', begins: 'BM', sizeOf: (view) => pixels(view, 18, 22, 'Uint32', true) },
  { name: 'WAV sound', ending: 'wav', begins: 'RIFF????WAVE' },
  { name: 'MP3 sound', ending: 'mp3', begins: 'ID3' },
  { name: 'Ogg sound or video', ending: 'ogg', begins: 'OggS' },
  { name: 'FLAC sound', ending: 'flac', begins: 'fLaC' },
  { name: 'MP4 video or sound', ending: 'mp4', begins: 'ftyp', at: 4 },
  { name: 'PDF document', ending: 'pdf', begins: '%PDF-' },
  { name: 'ZIP archive', ending: 'zip', begins: 'PK\x03\x04', isArchive: true },
  { name: 'gzip archive', ending: 'gz', begins: '\x1f\x8b', isArchive: true },
];

/** What some bytes are; nothing where no form of the list fits. */
export function contentForm(bytes: Uint8Array): ContentForm | undefined {
  const form = forms.find(({ begins, at = 0 }) => fits(bytes, begins, at));
  if (!form) return undefined;
  const { name, ending, sizeOf, isArchive } = form;
  const own = { name, ending, isShown: !isArchive };
  const size = sizeOf?.(new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength));
  return size ? { ...own, size } : own;
}

function fits(bytes: Uint8Array, begins: string, at: number): boolean {
  if (bytes.length < at + begins.length) return false;
  for (let i = 0; i < begins.length; i++) {
    const sign = begins.charCodeAt(i);
    if (sign !== ANY && bytes[at + i] !== sign) return false;
  }
  return true;
}

const ANY = '?'.charCodeAt(0);

function pixels(
  view: DataView,
  widthAt: number,
  heightAt: number,
  kind: 'Uint16' | 'Uint32',
  isLittle = false,
): ContentForm['size'] {
  const end = Math.max(widthAt, heightAt) + (kind === 'Uint16' ? 2 : 4);
  if (view.byteLength < end) return undefined;
  return { width: view[`get${kind}`](widthAt, isLittle), height: view[`get${kind}`](heightAt, isLittle) };
}

/** JPEG (ITU-T T.81, B.2.2): the frame header, which comes behind any number of other segments. */
function jpegSize(view: DataView): ContentForm['size'] {
  for (let at = 2; at + 9 < view.byteLength && view.getUint8(at) === 0xff;) {
    const marker = view.getUint8(at + 1);
    const isFrame = marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker);
    if (isFrame) return pixels(view, at + 7, at + 5, 'Uint16');
    at += 2 + view.getUint16(at + 2);
  }
  return undefined;
}

/** WebP (RFC 9649, 2.4 to 2.7): lossy, lossless, or extended. */
function webpSize(view: DataView): ContentForm['size'] {
  if (view.byteLength < 30) return undefined;
  const kind = String.fromCharCode(...[12, 13, 14, 15].map((at) => view.getUint8(at)));
  if (kind === 'VP8 ') return { width: view.getUint16(26, true) & 0x3fff, height: view.getUint16(28, true) & 0x3fff };
  if (kind === 'VP8L') {
    const bits = view.getUint32(21, true);
    return { width: (bits & 0x3fff) + 1, height: ((bits >> 14) & 0x3fff) + 1 };
  }
  const three = (at: number) => view.getUint16(at, true) + (view.getUint8(at + 2) << 16) + 1;
  return kind === 'VP8X' ? { width: three(24), height: three(27) } : undefined;
}
