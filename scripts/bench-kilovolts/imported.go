package main

import (
	"bufio"
	"encoding/csv"
	"errors"
	"io"
	"runtime"
	"strconv"
	"strings"
	"time"

	"glenmist/core/scope"
)

// endlessBlock is more than what comes at once, and more than the file may be too long by.
const endlessBlock = 64 << 10

// channels is the number of columns beside the time.
const channels = 4

// endless writes a capture as CSV until a size is reached.
type endless struct {
	size, sent int
	line       int
	rest       []byte
}

func (r *endless) Read(p []byte) (int, error) {
	if len(r.rest) == 0 {
		if r.sent >= r.size {
			return 0, io.EOF
		}
		r.rest = r.rest[:0]
		for len(r.rest) < endlessBlock/2 {
			kV := 0.02 * float64(r.line%7)
			if r.line%10_000 < 4 {
				kV = 9.1
			}
			r.rest = strconv.AppendFloat(r.rest, float64(r.line)*4e-6, 'f', 6, 64)
			for range channels {
				r.rest = strconv.AppendFloat(append(r.rest, ','), kV, 'f', 4, 64)
			}
			r.rest = append(r.rest, '\n')
			r.line++
		}
	}
	n := copy(p, r.rest)
	r.rest = r.rest[n:]
	r.sent += n
	return n, nil
}

// imported reads a file of a size, and the same with a bare reader of fields; the peak is that
// of the whole process's heap while it reads.
func imported(size int) (ratio, peakMB float64, err error) {
	head := "time,a,b,c,d\n"
	runtime.GC()
	peak := uint64(0)
	begin := time.Now()
	_, err = scope.ReadCSV(io.MultiReader(strings.NewReader(head), &endless{size: size}), scope.Options{Progress: func(n int64) error {
		var m runtime.MemStats
		if n>>24 != (n-1<<20)>>24 {
			runtime.ReadMemStats(&m)
			peak = max(peak, m.HeapInuse)
		}
		return nil
	}})
	ours := time.Since(begin)
	if err != nil {
		return 0, 0, err
	}
	begin = time.Now()
	c := csv.NewReader(bufio.NewReader(&endless{size: size}))
	c.ReuseRecord = true
	for {
		if _, err := c.Read(); errors.Is(err, io.EOF) {
			break
		}
	}
	return float64(ours) / float64(time.Since(begin)), float64(peak) / (1 << 20), nil
}
