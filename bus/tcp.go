package bus

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"strings"
	"sync"
	"time"

	"glenmist/core/casefile"
	"glenmist/core/job"
	"glenmist/core/obd"
)

// Bounds of a connection.
const (
	// MaxLine is the longest line in bytes: a job goes to the simulated vehicle as one.
	MaxLine   = 4 << 20
	dialTime  = 3 * time.Second
	writeTime = 3 * time.Second
	replyTime = 5 * time.Second
)

// Mark begins a line that is no frame: a command to the simulated vehicle, or its reply.
const Mark = "! "

// tcp is a bus over TCP. Each line is a frame in the notation of candump logs.
type tcp struct {
	heard
	conn    net.Conn
	sending sync.Mutex
	asking  sync.Mutex // one command at a time
	replies chan string
}

func dial(ctx context.Context, at string) (*tcp, error) {
	d := net.Dialer{Timeout: dialTime}
	conn, err := d.DialContext(ctx, "tcp", at)
	if err != nil {
		return nil, fmt.Errorf("expected a bus at %s: %w", at, err)
	}
	b := &tcp{heard: newHeard(), conn: conn, replies: make(chan string, 1)}
	go b.read()
	return b, nil
}

func (b *tcp) read() {
	defer close(b.frames)
	lines := bufio.NewScanner(b.conn)
	lines.Buffer(make([]byte, 0, 4096), MaxLine)
	for lines.Scan() {
		text := strings.TrimSpace(lines.Text())
		if reply, ok := strings.CutPrefix(text, Mark); ok {
			select {
			case b.replies <- reply:
			default: // nobody waits for it any more
			}
			continue
		}
		if f, err := obd.ParseLine(text); err == nil {
			b.hear(f)
		}
	}
}

func (b *tcp) write(line string) error {
	b.sending.Lock()
	defer b.sending.Unlock()
	if err := b.conn.SetWriteDeadline(time.Now().Add(writeTime)); err != nil {
		return errors.Join(ErrLost, err)
	}
	if _, err := b.conn.Write([]byte(line + "\n")); err != nil {
		return errors.Join(ErrLost, err)
	}
	return nil
}

// Send sends a frame.
func (b *tcp) Send(f obd.Frame) error { return b.write(obd.Stamped{Frame: f}.Line("obd")) }

// Close ends the connection.
func (b *tcp) Close() error { return b.conn.Close() }

// Command sends a command of the simulated vehicle.
func (b *tcp) Command(ctx context.Context, text string) (s State, err error) {
	b.asking.Lock()
	defer b.asking.Unlock()
	select {
	case <-b.replies: // one that came too late
	default:
	}
	if err := b.write(Mark + text); err != nil {
		return s, err
	}
	wait, cancel := context.WithTimeout(ctx, replyTime)
	defer cancel()
	select {
	case reply := <-b.replies:
		if state, ok := strings.CutPrefix(reply, "ok "); ok {
			return s, json.Unmarshal([]byte(state), &s)
		}
		return s, errors.New(strings.TrimPrefix(reply, "error "))
	case <-wait.Done():
		return s, fmt.Errorf("expected a reply within %s: %w", replyTime, wait.Err())
	}
}

// Become makes the simulated vehicle that of a job as it now stands.
func (b *tcp) Become(ctx context.Context, j job.Job) error {
	var file, line bytes.Buffer
	if err := casefile.Write(&file, j); err != nil {
		return err
	}
	if err := json.Compact(&line, file.Bytes()); err != nil {
		return err
	}
	_, err := b.Command(ctx, "job "+line.String())
	return err
}
