/** Footage that means harm, or was harmed: what it is called, its bytes, and what must become of it. */
import { randomBytes } from 'node:crypto'
import { crc32, deflateSync } from 'node:zlib'
import { PICTURE_ENDINGS, VIDEO_ENDINGS } from '../../core/jobs/footage'

export interface HostileFootage {
  readonly name: string
  readonly bytes: Buffer
  /** Refused, taken in, or either of them: in the end one of both, in words. */
  readonly must: 'be refused' | 'be taken in' | 'end'
}

/** Footage that is right, to be bent: 64 x 48 px, three frames. */
export interface RightFootage {
  readonly mkv: Buffer
  readonly mp4: Buffer
  readonly avi: Buffer
  readonly png: Buffer
  readonly jpg: Buffer
  readonly sound: Buffer
}

const text = (...lines: readonly string[]): Buffer => Buffer.from(lines.join('\n'))
const u32 = (value: number): Buffer => {
  const bytes = Buffer.alloc(4)
  bytes.writeUInt32BE(value >>> 0)
  return bytes
}

// PNG: W3C Portable Network Graphics, third edition, 5.3 (chunks) and 11.2 (IHDR).
const SIGNATURE = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a])
function chunk(type: string, data: Buffer, { length = data.length, check = true } = {}): Buffer {
  const body = Buffer.concat([Buffer.from(type, 'latin1'), data])
  return Buffer.concat([u32(length), body, u32(check ? crc32(body) : 0)])
}
const header = (width: number, height: number, bits = 8, colour = 2): Buffer =>
  chunk('IHDR', Buffer.concat([u32(width), u32(height), Buffer.from([bits, colour, 0, 0, 0])]))
const END = chunk('IEND', Buffer.alloc(0))
const pngOf = (...parts: readonly Buffer[]): Buffer => Buffer.concat([SIGNATURE, ...parts, END])
/** A picture of a few kilobytes that takes a gigabyte as colour. */
export const hugePng = (side: number): Buffer =>
  pngOf(header(side, side, 1, 0), chunk('IDAT', deflateSync(Buffer.alloc(side * (1 + Math.ceil(side / 8))))))

// TIFF 6.0, section 2: byte order, 42, where the first directory lies; entries of tag, type, count, value.
type Entry = readonly [tag: number, type: number, count: number, value: number]
function tiffOf(entries: readonly Entry[], { next = 0, count = entries.length } = {}): Buffer {
  const bytes = Buffer.alloc(8 + 2 + 12 * entries.length + 4 + 64)
  bytes.write('II')
  bytes.writeUInt16LE(42, 2)
  bytes.writeUInt32LE(8, 4)
  bytes.writeUInt16LE(count, 8)
  entries.forEach(([tag, type, many, value], i) => {
    const at = 10 + 12 * i
    bytes.writeUInt16LE(tag, at)
    bytes.writeUInt16LE(type, at + 2)
    bytes.writeUInt32LE(many, at + 4)
    bytes.writeUInt32LE(value >>> 0, at + 8)
  })
  bytes.writeUInt32LE(next, 10 + 12 * entries.length)
  return bytes
}
const tiffEntries = (width: number, height: number, offset: number): Entry[] => [
  [256, 4, 1, width],
  [257, 4, 1, height],
  [258, 3, 1, 8],
  [259, 3, 1, 1],
  [262, 3, 1, 1],
  [273, 4, 1, offset],
  [278, 4, 1, height],
  [279, 4, 1, width * height],
]

// DPX: SMPTE ST 268-1, the header's first fields and the size of the picture at byte 772.
function dpxOf(width: number, height: number, offset: number): Buffer {
  const bytes = Buffer.alloc(2048 + 1024)
  bytes.write('SDPX')
  bytes.writeUInt32BE(offset, 4)
  bytes.writeUInt16BE(1, 770)
  bytes.writeUInt32BE(width, 772)
  bytes.writeUInt32BE(height, 776)
  bytes[800] = 50
  bytes[803] = 10
  return bytes
}

/** JPEG up to its frame header (ITU-T T.81, B.2.2): so many pixels are said to follow. */
const jpegOf = (width: number, height: number): Buffer =>
  Buffer.from([0xff, 0xd8, 0xff, 0xc0, 0, 11, 8, height >> 8, height & 255, width >> 8, width & 255, 1, 1, 0x11, 0, 0xff, 0xda, 0, 8, 1, 1, 0, 0, 63, 0]) // prettier-ignore

/** A box of the QuickTime family (ISO/IEC 14496-12, 4.2). */
const box = (type: string, body: Buffer, size = 8 + body.length): Buffer =>
  Buffer.concat([u32(size), Buffer.from(type, 'latin1'), body])

/** What follows a box's type is changed: `skip` bytes further, so many bytes. */
function bent(whole: Buffer, type: string, skip: number, bytes: Buffer): Buffer {
  const copy = Buffer.from(whole)
  const at = copy.indexOf(type, 0, 'latin1')
  if (at < 0) throw new Error(`There is no box ${type} to be bent.`)
  bytes.copy(copy, at + type.length + skip)
  return copy
}

/** Every so many bytes one is wrong, from `first` on. */
function gnawed(whole: Buffer, first: number, every: number): Buffer {
  const copy = Buffer.from(whole)
  for (let i = first; i < copy.length; i += every) copy[i]! ^= 0x5a
  return copy
}

const SECRET = 'file:///etc/passwd'

/** Files whose insides are wrong. */
export function hostileInsides({ mkv, mp4, avi, png, jpg, sound }: RightFootage): HostileFootage[] {
  const refused: [string, Buffer][] = [
    ['text.mp4', text('This is no film.')],
    ...[...VIDEO_ENDINGS].map((ending): [string, Buffer] => [`noise.${ending}`, randomBytes(65_536)]),
    ...[...PICTURE_ENDINGS].map((ending): [string, Buffer] => [`noise.0001.${ending}`, randomBytes(65_536)]),
    ['playlist.mp4', text('#EXTM3U', '#EXT-X-VERSION:3', '#EXTINF:1,', SECRET, '#EXT-X-ENDLIST')],
    ['list.mkv', text('ffconcat version 1.0', 'file /etc/passwd')],
    ['remote.mkv', text('#EXTM3U', '#EXTINF:1,', 'http://127.0.0.1:4391/health')],
    ['session.mkv', text('v=0', 'o=- 0 0 IN IP4 127.0.0.1', 's=x', 'c=IN IP4 127.0.0.1', 't=0 0', 'm=video 5004 RTP/AVP 96')], // prettier-ignore
    ['manifest.mp4', text(`<?xml version="1.0"?><MPD xmlns="urn:mpeg:dash:schema:mpd:2011"><Period><BaseURL>${SECRET}</BaseURL></Period></MPD>`)], // prettier-ignore
    ['subtitles.mkv', text('1', '00:00:00,000 --> 00:00:01,000', 'words')],
    ['sound.mov', sound],
    ['zip.mkv', Buffer.concat([Buffer.from('PK\x03\x04'), randomBytes(2000)])],
    ['program.mkv', Buffer.concat([Buffer.from('\x7fELF'), Buffer.alloc(2000)])],
    ['wide.y4m', text('YUV4MPEG2 W100000 H100000 F24:1 Ip A1:1 C420jpeg', 'FRAME', '')],
    ['endless.y4m', Buffer.concat([Buffer.from('YUV4MPEG2 '), Buffer.alloc(1 << 20, 'A')])],
    ['endless.mp4', Buffer.concat([box('ftyp', Buffer.from('isom0000')), box('moov', randomBytes(500), 0xffffffff)])], // prettier-ignore
    ['nested.mp4', Buffer.concat([box('ftyp', Buffer.from('isom0000')), ...Array.from({ length: 20_000 }, (_, i) => box('moov', Buffer.alloc(0), 8 * (20_000 - i)))])], // prettier-ignore
    ['lying.mkv', Buffer.concat([Buffer.from([0x1a, 0x45, 0xdf, 0xa3, 0x01, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff]), randomBytes(2000)])], // prettier-ignore
    ['vector.0001.png', text('<?xml version="1.0"?>', `<!DOCTYPE svg [<!ENTITY x SYSTEM "${SECRET}">]>`, `<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><image href="${SECRET}"/><text>&x;</text></svg>`)], // prettier-ignore
    ['laughs.0001.png', text('<!DOCTYPE svg [<!ENTITY a "ha">', ...Array.from({ length: 20 }, (_, i) => `<!ENTITY ${'bcdefghijklmnopqrstu'[i]} "&${'abcdefghijklmnopqrst'[i]};&${'abcdefghijklmnopqrst'[i]};">`), ']><svg>&u;</svg>')], // prettier-ignore
    ['orders.0001.png', text('push graphic-context', `image over 0,0 0,0 "|touch /var/tmp/fillagrant-outside"`, 'pop graphic-context')], // prettier-ignore
    ['huge.0001.png', pngOf(header(65_535, 65_535), chunk('IDAT', deflateSync(Buffer.alloc(1000))))],
    ['bomb.0001.png', hugePng(16_000)],
    ['long.0001.png', pngOf(header(9, 9), chunk('IDAT', Buffer.alloc(10), { length: 0x7fffffff }))],
    ['none.0001.png', pngOf(header(9, 9))],
    ['cut.0001.png', png.subarray(0, png.length / 2)],
    ['huge.0001.jpg', jpegOf(65_500, 65_500)],
    ['start.0001.jpg', Buffer.from([0xff, 0xd8])],
    ['huge.0001.tif', tiffOf(tiffEntries(0x7fffffff, 0x7fffffff, 200))],
    ['far.0001.tif', tiffOf(tiffEntries(64, 48, 0xfffffff0))],
    ['many.0001.tif', tiffOf(tiffEntries(64, 48, 200), { count: 65_535 })],
    ['huge.0001.dpx', dpxOf(0xffffffff, 0xffffffff, 2048)],
    ['far.0001.dpx', dpxOf(64, 48, 0xfffffff0)],
    ['lying.0001.webp', Buffer.concat([Buffer.from('RIFF'), u32(0xffffffff), Buffer.from('WEBPVP8X'), randomBytes(100)])], // prettier-ignore
    ['times.mp4', bent(mp4, 'mdhd', 12, u32(0))],
  ]
  // What a reader may take as it is, or not: damage is asked about, and is an end.
  const either: [string, Buffer][] = [
    [
      'check.0001.png',
      pngOf(header(9, 9), chunk('IDAT', deflateSync(Buffer.alloc(9 * 28)), { check: false })),
    ],
    ['words.0001.png', Buffer.concat([png.subarray(0, 33), chunk('zTXt', Buffer.concat([Buffer.from('x\0\0'), deflateSync(Buffer.alloc(1 << 26))])), png.subarray(33)])], // prettier-ignore
    ['half.0001.jpg', jpg.subarray(0, jpg.length / 2)],
    ['loop.0001.tif', tiffOf(tiffEntries(8, 8, 60), { next: 8 })],
    ['counts.mp4', bent(mp4, 'stsz', 8, u32(0xffffffff))],
    ['offsets.mp4', bent(mp4, 'stco', 8, u32(0xfffffff0))],
    ['elsewhere.mp4', bent(mp4, 'url ', 0, u32(0))],
    ['gnawed.mkv', gnawed(mkv, 400, 97)],
    ['gnawed.mp4', gnawed(mp4, 60, 131)],
    ['gnawed.avi', gnawed(avi, 300, 113)],
    ['cut.mkv', mkv.subarray(0, mkv.length / 2)],
    ['cut.avi', avi.subarray(0, avi.length / 2)],
    ['slow.y4m', text('YUV4MPEG2 W2 H2 F0:0 Ip A1:1 C420jpeg', 'FRAME', 'abcdef')],
    ['fast.y4m', text('YUV4MPEG2 W2 H2 F1000000:1 Ip A1:1 C420jpeg', 'FRAME', 'abcdef')],
  ]
  return [
    ...refused.map(([name, bytes]) => ({ name, bytes, must: 'be refused' as const })),
    ...either.map(([name, bytes]) => ({ name, bytes, must: 'end' as const })),
  ]
}

/** Right footage under names that mean harm. What cannot be a name is refused when it is announced. */
export function hostileNames({ mkv }: RightFootage): HostileFootage[] {
  const taken = ['/var/tmp/fillagrant-outside.mkv', '$(touch outside).mkv', '`touch outside`.mkv', "'; drop table shots; --.mkv", '<script>alert(1)</script>.mkv', '-i.mkv', 'file:outside.mkv', 'concat:a|b.mkv', 'pipe:0.mkv', '%s%n%07d.mkv', 'con.mkv', '\u202egnp.mkv', `${'a'.repeat(250)}.mkv`, ' .mkv', 'new\nline.mkv', '__proto__.mkv', '😀.MKV'] // prettier-ignore
  const refused = ['../../outside.mkv', '..\\..\\outside.mkv', 'nul\0.mkv', 'half\ud83d.mkv', '.hidden.mkv', 'no-ending', 'film.mkv.exe', `${'a'.repeat(300)}.mkv`] // prettier-ignore
  return [
    ...taken.map((name) => ({ name, bytes: mkv, must: 'be taken in' as const })),
    ...refused.map((name) => ({ name, bytes: mkv, must: 'be refused' as const })),
  ]
}
