/** What is found about an arm: sentence, severity and remedy of each code, and what makes findings and faults of them. */
import { defineFindings, error } from '../findings';

export const mechanismFindings = defineFindings({
  'limits-empty': error(
    400,
    '{path}: together with the joints that follow it, “{id}” has no value left inside its limits.',
  ),
  'delta-open': error(
    400,
    '{path}: the arms cannot meet at the platform in the rest pose; the forearms are {byMm:mm} too short.',
    'Lengthen the forearms or bring base and platform radius closer together.',
  ),
  'delta-flat': error(
    400,
    '{path}: the three arms hold the platform along one line only; their azimuths must point three ways.',
  ),
});
export const { fault } = mechanismFindings;
