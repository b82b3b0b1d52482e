package photo

import (
	"context"
	"errors"
	"sync/atomic"

	"golang.org/x/sync/semaphore"
)

// MaxDecoded bounds the memory that pictures take while they are decoded, all of them
// together, in bytes. A picture that needs more is refused.
const MaxDecoded = 128 << 20

// maxWaiting is how many pictures wait for memory at most.
const maxWaiting = 40

// ErrBusy says that too many pictures wait to be decoded: try again in a while.
var ErrBusy = errors.New("too many photos wait to be read")

var (
	memory  = semaphore.NewWeighted(MaxDecoded)
	waiting atomic.Int32
)

// reserve waits until so many bytes are free for a picture, and gives them back with
// release. It fails with [ErrBusy] when too many wait, or with the context's error.
func reserve(ctx context.Context, bytes int64) (release func(), err error) {
	if waiting.Add(1) > maxWaiting {
		waiting.Add(-1)
		return nil, ErrBusy
	}
	defer waiting.Add(-1)
	if err := memory.Acquire(ctx, bytes); err != nil {
		return nil, err
	}
	return func() { memory.Release(bytes) }, nil
}
