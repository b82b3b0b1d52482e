// Package spool holds what comes from the network, or goes to it, in temporary files. A
// slow client then holds a file and no database connection, and no place among those who
// read one.
package spool

import (
	"errors"
	"fmt"
	"io"
	"os"
	"sync"
)

// ErrFull says that the temporary files hold as many bytes as they may.
var ErrFull = errors.New("too much is being sent or received at once")

// TooLong says that more was written to a file than it may hold.
type TooLong struct{ Most int64 }

func (e TooLong) Error() string { return fmt.Sprintf("expected at most %d bytes, got more", e.Most) }

// Pool bounds the bytes of all its files together. Make one with [New].
type Pool struct {
	most int64
	mu   sync.Mutex
	used int64
}

// New makes a pool whose files hold at most so many bytes together.
func New(most int64) *Pool { return &Pool{most: most} }

// Used is how many bytes the files of the pool hold now.
func (p *Pool) Used() int64 {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.used
}

func (p *Pool) take(n int64) bool {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.used+n > p.most {
		return false
	}
	p.used += n
	return true
}

// File is a temporary file without a name: it is gone when it is closed, and when the
// program ends in any way. Its methods are those of an [os.File].
type File struct {
	*os.File
	pool *Pool
	most int64
	size int64
}

// File makes an empty file that holds at most so many bytes. Close it.
func (p *Pool) File(most int64) (*File, error) {
	f, err := os.CreateTemp("", "glenmist-")
	if err != nil {
		return nil, err
	}
	if err := os.Remove(f.Name()); err != nil {
		return nil, errors.Join(err, f.Close())
	}
	return &File{File: f, pool: p, most: most}, nil
}

// Size is how many bytes were written.
func (f *File) Size() int64 { return f.size }

// Write adds to the file. It fails with [ErrFull] or [TooLong] and writes nothing then.
func (f *File) Write(data []byte) (int, error) {
	n := int64(len(data))
	if f.size+n > f.most {
		return 0, TooLong{f.most}
	}
	if !f.pool.take(n) {
		return 0, ErrFull
	}
	f.size += n
	return f.File.Write(data)
}

// ReadFrom hides the method of [os.File], which would not count what it writes.
func (f *File) ReadFrom(r io.Reader) (int64, error) {
	return io.Copy(struct{ io.Writer }{f}, r)
}

// WriteString hides the method of [os.File], like ReadFrom.
func (f *File) WriteString(s string) (int, error) { return f.Write([]byte(s)) }

// Rewind goes back to the beginning, to read what was written.
func (f *File) Rewind() error {
	_, err := f.Seek(0, io.SeekStart)
	return err
}

// Close removes the file.
func (f *File) Close() error {
	err := f.File.Close()
	if err == nil {
		f.pool.take(-f.size)
	}
	return err
}
