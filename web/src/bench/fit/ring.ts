// A bench rings: two short tones, where the browser lets us; silent elsewhere, the words on the screen stay.

const TONES_HZ = [880, 660] as const;
const TONE_S = 0.18;

export function ring(): void {
  try {
    const sound = new AudioContext();
    TONES_HZ.forEach((hz, at) => {
      const tone = sound.createOscillator();
      const volume = sound.createGain();
      tone.frequency.value = hz;
      volume.gain.value = 0.15;
      tone.connect(volume).connect(sound.destination);
      tone.start(sound.currentTime + at * TONE_S * 1.3);
      tone.stop(sound.currentTime + at * TONE_S * 1.3 + TONE_S);
    });
    setTimeout(() => void sound.close(), 1500);
  } catch {
    // no sound on this machine
  }
}
