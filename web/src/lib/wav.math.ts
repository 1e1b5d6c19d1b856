/** WAV files from samples. Pure. */

const HEADER_BYTES = 44;

/** Bits that fit a length into an upload: 24 as long as it can be, else 16. */
export function bitsFor(frames: number, mostBytes: number): 16 | 24 {
  return HEADER_BYTES + frames * 3 <= mostBytes ? 24 : 16;
}

/** A mono WAV file after the RIFF specification: PCM, little endian; samples beyond full scale are clipped. */
export function wavFile(samples: Float32Array, rateHz: number, bits: 16 | 24): ArrayBuffer {
  const bytes = bits / 8;
  const file = new ArrayBuffer(HEADER_BYTES + samples.length * bytes);
  const view = new DataView(file);
  const text = (at: number, value: string) => {
    for (let i = 0; i < value.length; i += 1) view.setUint8(at + i, value.charCodeAt(i));
  };
  text(0, "RIFF");
  view.setUint32(4, file.byteLength - 8, true);
  text(8, "WAVEfmt ");
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true);
  view.setUint16(22, 1, true);
  view.setUint32(24, rateHz, true);
  view.setUint32(28, rateHz * bytes, true);
  view.setUint16(32, bytes, true);
  view.setUint16(34, bits, true);
  text(36, "data");
  view.setUint32(40, samples.length * bytes, true);
  const full = bits === 16 ? 0x8000 : 0x800000;
  for (let i = 0, at = HEADER_BYTES; i < samples.length; i += 1, at += bytes) {
    const value = Math.max(-full, Math.min(full - 1, Math.round((samples[i] as number) * full)));
    if (bits === 16) view.setInt16(at, value, true);
    else {
      view.setUint8(at, value & 0xff);
      view.setUint8(at + 1, (value >> 8) & 0xff);
      view.setUint8(at + 2, (value >> 16) & 0xff);
    }
  }
  return file;
}
