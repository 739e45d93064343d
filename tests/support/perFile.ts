import { demoNodes } from './demoNodes'

// Files of one process share what they have read in; what one of them has set is not the next one's.
demoNodes.only = null
