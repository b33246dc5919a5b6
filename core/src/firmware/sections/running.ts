/** What every program does round after round. */
export const running = String.raw`
// ── Round after round ───────────────────────────────────────────────────────────────────────────────────────────────

// Never waits. A loop that came late makes up for it, a millisecond at a time.
void loop() {
  listen();
  while (micros() - lastMs >= 1000) {
    lastMs += 1000;
    everyMs();
  }
#if USES_DRIVER
  writeDriver();
#endif
#if USES_TICK
  pollTick();
#endif
#if DISPLAY_ROWS
  showDisplay();
#endif
  sendOut();
}
`;
