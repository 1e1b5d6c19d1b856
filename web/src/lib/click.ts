/** Clicks on the audio clock. */

const ACCENT_HZ = 1760;
const PLAIN_HZ = 1175;
const LENGTH_S = 0.03;
const ATTACK_S = 0.001;

/** Schedule one click exactly at a time of the context; returns its node, so that it can be stopped. */
export function clickAt(
  context: BaseAudioContext,
  to: AudioNode,
  time: number,
  accent: boolean,
): OscillatorNode {
  const oscillator = new OscillatorNode(context, { type: "sine", frequency: accent ? ACCENT_HZ : PLAIN_HZ });
  const gain = new GainNode(context, { gain: 0 });
  oscillator.connect(gain).connect(to);
  gain.gain.setValueAtTime(0, time);
  gain.gain.linearRampToValueAtTime(accent ? 0.5 : 0.32, time + ATTACK_S);
  gain.gain.exponentialRampToValueAtTime(0.001, time + LENGTH_S);
  oscillator.start(time);
  oscillator.stop(time + LENGTH_S);
  return oscillator;
}
