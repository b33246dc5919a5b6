import { strictSentences } from '@cork-elbow/core/findings';

strictSentences();
