// Package explain puts the reasoning in words: what a move showed, why a suspect stands where it
// does, and what does not fit. It adds no figure of its own.
package explain
