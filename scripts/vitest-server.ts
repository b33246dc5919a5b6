import { strictSentences } from '@cork-elbow/core/contract';

strictSentences();
