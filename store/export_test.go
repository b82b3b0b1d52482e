package store

// CameBack is the condition that a job j came back.
const CameBack = cameBack
