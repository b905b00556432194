// What a step says, spoken by the browser where it has a voice.

export const canSpeak = (): boolean => "speechSynthesis" in window && typeof SpeechSynthesisUtterance !== "undefined";

export function speak(words: readonly string[]): void {
  if (!canSpeak()) return;
  speechSynthesis.cancel();
  for (const text of words.filter(Boolean)) {
    const said = new SpeechSynthesisUtterance(text);
    said.lang = "en";
    speechSynthesis.speak(said);
  }
}

export function silence(): void {
  if (canSpeak()) speechSynthesis.cancel();
}
