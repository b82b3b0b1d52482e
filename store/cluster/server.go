package cluster

import (
	"errors"
	"fmt"
	"os"
	"os/exec"
	"sync"
	"syscall"
	"time"
)

// A server that died is started again after restartPause: the memory it shared with its
// children may be in use until they have ended too. The pause doubles up to longestPause while
// the server does not live for steadyAfter.
const (
	restartPause = 300 * time.Millisecond
	longestPause = 10 * time.Second
	steadyAfter  = time.Second
)

// server is the process of a PostgreSQL server, and its successors when it dies.
type server struct {
	command func() *exec.Cmd
	log     string

	mu       sync.Mutex
	cmd      *exec.Cmd
	ended    chan struct{} // closed when the process of cmd has ended
	stopping chan struct{} // closed by stop
	stopped  bool
}

// startServer starts the process that command makes; it prints to the file log.
func startServer(command func() *exec.Cmd, log string) (*server, error) {
	s := &server{command: command, log: log, stopping: make(chan struct{})}
	return s, s.spawn(os.O_TRUNC)
}

// spawn starts a process, unless stop has been called.
func (s *server) spawn(mode int) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.stopped {
		return nil
	}
	log, err := os.OpenFile(s.log, os.O_CREATE|os.O_WRONLY|mode, 0o600)
	if err != nil {
		return err
	}
	defer func() { _ = log.Close() }()
	cmd, ended := s.command(), make(chan struct{})
	cmd.Stdout, cmd.Stderr = log, log
	if err := cmd.Start(); err != nil {
		return fmt.Errorf("start PostgreSQL: %w", err)
	}
	s.cmd, s.ended = cmd, ended
	go func() {
		_ = cmd.Wait() // the log says how it ended
		close(ended)
	}()
	return nil
}

// exited is closed when the process that runs now has ended.
func (s *server) exited() <-chan struct{} {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.ended
}

// supervise starts the server again whenever it dies, until stop is called.
func (s *server) supervise() {
	go func() {
		pause := restartPause
		for {
			began := time.Now()
			select {
			case <-s.stopping:
				return
			case <-s.exited():
			}
			if time.Since(began) > steadyAfter {
				pause = restartPause
			}
			select {
			case <-s.stopping:
				return
			case <-time.After(pause):
			}
			pause = min(2*pause, longestPause)
			if err := s.spawn(os.O_APPEND); err != nil {
				fmt.Fprintln(os.Stderr, "glenmist:", err)
			}
		}
	}()
}

func (s *server) signal(sig syscall.Signal) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if err := s.cmd.Process.Signal(sig); err != nil && !errors.Is(err, os.ErrProcessDone) {
		return err
	}
	return nil
}

// stop asks for a fast shutdown and waits for it.
func (s *server) stop() error {
	s.mu.Lock()
	if !s.stopped {
		s.stopped = true
		close(s.stopping)
	}
	s.mu.Unlock()
	if err := s.signal(syscall.SIGINT); err != nil {
		return err
	}
	select {
	case <-s.exited():
		return nil
	case <-time.After(patience):
		return errors.Join(errors.New("PostgreSQL did not stop in time"), s.signal(syscall.SIGKILL))
	}
}
