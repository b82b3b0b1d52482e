package obd

import (
	"bufio"
	"encoding/hex"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"

	"glenmist/core/invalid"
)

// Bounds of a log.
const (
	MaxLogBytes  = 64 << 20
	maxLogLine   = 400
	maxSkipped   = 20 // lines that are named
	maxLogScans  = 50
	maxLogFaults = 200
)

// Log is the content of a recorded bus. A clearing ends a scan.
type Log struct {
	Frames, Requests int
	Scans            []Scan
	// Cleared is true for each scan that ended with a clearing that was answered.
	Cleared []bool
	// Skipped names lines that could not be read, up to twenty; there were as many as SkippedLines.
	Skipped      []string
	SkippedLines int
}

// Stamped is a frame with the time at which it was on the bus, since any moment.
type Stamped struct {
	At time.Duration
	Frame
}

// Line is the frame as a line of a log, on a bus of that name: "(12.345678) can0 7E8#064100BE1FA813".
func (f Stamped) Line(bus string) string {
	return fmt.Sprintf("(%.6f) %s %s", f.At.Seconds(), bus, f.Frame)
}

// ReadLog reads a log of a bus as candump writes it, "(1700000000.123456) can0 7E8#064100BE1FA813", or as it prints on the
// screen, "can0  7E8   [8]  06 41 00 BE 1F A8 13 00". Requests of a tester and the answers to them are recognised.
func ReadLog(in io.Reader) (Log, error) {
	var log Log
	var listener Listener
	reader, cleared := NewReader(), false
	end := func() {
		if s := reader.Scan(); (len(s.Units) > 0 || cleared) && len(log.Scans) < maxLogScans {
			s.Problems = s.Problems[:min(len(s.Problems), maxLogFaults)]
			log.Scans, log.Cleared = append(log.Scans, s), append(log.Cleared, cleared)
		}
		reader, cleared = NewReader(), false
	}
	listener.Heard = func(_ time.Duration, q Request, answers []Answer) {
		log.Requests++
		if q.Service == Clear {
			for _, a := range answers {
				cleared = cleared || a.Err == nil
			}
			if cleared {
				end()
			}
			return
		}
		reader.Take(q, answers)
	}
	scanner := bufio.NewScanner(io.LimitReader(in, MaxLogBytes+1))
	scanner.Buffer(make([]byte, 0, 4096), maxLogLine)
	read, line := 0, 0
	for scanner.Scan() {
		line++
		if read += len(scanner.Bytes()) + 1; read > MaxLogBytes {
			return log, invalid.Error{Expected: fmt.Sprintf("a log of at most %d MB", MaxLogBytes>>20), Got: "more"}
		}
		text := strings.TrimSpace(scanner.Text())
		if text == "" || text[0] == '#' {
			continue
		}
		f, err := ParseLine(text)
		if err != nil {
			if log.SkippedLines++; len(log.Skipped) < maxSkipped {
				log.Skipped = append(log.Skipped, fmt.Sprintf("line %d: %s", line, invalid.Quote(text[:min(len(text), 80)])))
			}
			continue
		}
		log.Frames++
		listener.Take(f)
	}
	if err := scanner.Err(); err != nil {
		return log, invalid.Error{Field: fmt.Sprintf("line %d", line+1), Expected: fmt.Sprintf("lines of at most %d characters", maxLogLine), Got: err.Error()}
	}
	listener.End()
	end()
	if log.Frames == 0 {
		return log, invalid.Error{Expected: "a log of CAN frames, with lines such as (1700000000.123456) can0 7E8#064100BE1FA813", Got: "none"}
	}
	return log, nil
}

// ParseLine reads a line of a log, in either notation. Without a time it is 0.
func ParseLine(text string) (f Stamped, err error) {
	bad := invalid.Error{Expected: "a CAN frame such as (1700000000.123456) can0 7E8#064100BE1FA813", Got: invalid.Quote(text)}
	fields := strings.Fields(text)
	if len(fields) > 0 && strings.HasPrefix(fields[0], "(") {
		seconds, err := strconv.ParseFloat(strings.Trim(fields[0], "()"), 64)
		if err != nil || !(seconds >= 0 && seconds < 1e10) {
			return f, bad
		}
		f.At, fields = time.Duration(seconds*1e6)*time.Microsecond, fields[1:]
	}
	switch {
	case len(fields) >= 2 && strings.Contains(fields[1], "#"):
		f.Frame, err = ParseFrame(fields[1])
		return f, err
	case len(fields) >= 3 && strings.HasPrefix(fields[2], "[") && strings.HasSuffix(fields[2], "]"):
		n, err := strconv.Atoi(strings.Trim(fields[2], "[]"))
		if err != nil || n < 0 || n > 8 || len(fields) < 3+n {
			return f, bad
		}
		data, err := hex.DecodeString(strings.Join(fields[3:3+n], ""))
		if err != nil || len(data) != n {
			return f, bad
		}
		f.Frame, err = ParseFrame(fmt.Sprintf("%s#%X", fields[1], data))
		return f, err
	}
	return f, bad
}

// Listener finds requests and their answers among the frames of a bus. It sends nothing.
type Listener struct {
	// Heard is called for each request, when the next one begins or the log ends.
	Heard func(at time.Duration, q Request, answers []Answer)
	now   *Exchange
	at    time.Duration
}

// Take reads the next frame.
func (l *Listener) Take(f Stamped) {
	_, to, ok := Asked(f.Frame)
	if !ok {
		if l.now != nil {
			l.now.Take(f.At, f.Frame)
		}
		return
	}
	message, _, err := new(Receiver).Take(f.Frame)
	if err != nil || message == nil { // flow control, or more than a request of these services has
		return
	}
	l.End()
	if services[Service(message[0])] != "" {
		l.now, l.at = Begin(Request{Service(message[0]), message[1:], to}, f.At), f.At
	}
}

// End ends the last request.
func (l *Listener) End() {
	if l.now != nil {
		l.Heard(l.at, l.now.Request, l.now.Answers())
		l.now = nil
	}
}

// LooksLikeLog reports whether a text begins as a log of a bus: its first line with text is a frame.
func LooksLikeLog(text string) bool {
	for line := range strings.Lines(text) {
		if line = strings.TrimSpace(line); line != "" && line[0] != '#' {
			_, err := ParseLine(line)
			return err == nil
		}
	}
	return false
}
