/** Why a serial port cannot be used, as somebody would say it; `message`: as the system says it. */
export function portTrouble(message: string, path: string): string {
  if (/permission|access denied|EACCES/i.test(message))
    return `this user may not open ${path}: on Linux join the group that owns it, often dialout, and log in again`;
  if (/cannot lock|busy|EBUSY|temporarily unavailable/i.test(message))
    return `another program has ${path} open: close it there first`;
  if (/no such file|not found|ENOENT/i.test(message))
    return `there is no port ${path}; the board may not be plugged in`;
  if (/baud/i.test(message)) return `${path} cannot be set to this speed`;
  if (/input.output error|EIO|ENXIO|no such device/i.test(message))
    return `${path} is gone, as when its cable is pulled`;
  return message.replace(/^Error:? /, '');
}
