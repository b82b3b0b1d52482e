package main

import (
	"bufio"
	"bytes"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"glenmist/people"
	"glenmist/store"
	"glenmist/store/cluster"
)

// place is a server with its database, to be tried and killed.
type place struct {
	bin     string
	dir     string
	cluster *cluster.Cluster
	client  *http.Client
	// sessions are the cookies of the people who send requests; turn counts them.
	sessions []*http.Cookie
	turn     atomic.Int64

	mu      sync.Mutex
	server  *exec.Cmd
	address string // http://127.0.0.1:port, the same after a restart
	peak    int64  // most memory that a server has taken, in bytes
}

// inPlace runs a trial in a place of its own, on a small disk if it is to be filled.
func inPlace(ctx context.Context, o options, small bool, run func(*place) (outcome, error)) (l outcome, err error) {
	dir, err := os.MkdirTemp("", "glenmist-trial-")
	if err != nil {
		return l, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	if err := os.Chmod(dir, 0o755); err != nil { //nolint:gosec // the database's user passes through
		return l, err
	}
	if small {
		if err := syscall.Mount("tmpfs", dir, "tmpfs", 0, "size=200m,mode=755"); err != nil {
			return l, fmt.Errorf("mount a small disk: %w", err)
		}
		defer func() { err = errors.Join(err, syscall.Unmount(dir, syscall.MNT_DETACH)) }()
	}
	p := &place{bin: o.bin, dir: dir, client: &http.Client{Timeout: 2 * time.Minute, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}}
	if p.cluster, err = cluster.Start(ctx, filepath.Join(dir, "state")); err != nil {
		return l, err
	}
	defer func() { err = errors.Join(err, p.cluster.Stop()) }()
	if err := p.start(ctx); err != nil {
		return l, err
	}
	defer p.kill()
	if err := p.staff(ctx); err != nil {
		return l, fmt.Errorf("sign in: %w", err)
	}
	return run(p)
}

// crew is how many people send the requests, in turn: limits are by person.
const crew = 20

// staff adds people to the database and signs them in.
func (p *place) staff(ctx context.Context) (err error) {
	s, err := store.Open(p.cluster.URL)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	password := rand.Text()
	for i := range crew {
		name := fmt.Sprintf("Hand %d", i+1)
		if _, err := s.AddPerson(store.WithActor(ctx, store.Actor{Name: "the trial"}), name, people.Administrator, password); err != nil {
			return err
		}
		form := url.Values{"how": {"password"}, "name": {name}, "password": {password}}
		r, err := http.NewRequestWithContext(ctx, http.MethodPost, p.address+"/sign-in", strings.NewReader(form.Encode()))
		if err != nil {
			return err
		}
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		res, err := p.client.Do(r) //nolint:gosec // on loopback
		if err != nil {
			return err
		}
		_ = res.Body.Close()
		if res.StatusCode != http.StatusSeeOther || len(res.Cookies()) == 0 {
			return fmt.Errorf("%s: %s", name, res.Status)
		}
		p.sessions = append(p.sessions, res.Cookies()[0])
	}
	return nil
}

// session is the cookie of whoever's turn it is; nil before anybody has signed in.
func (p *place) session() *http.Cookie {
	if len(p.sessions) == 0 {
		return nil
	}
	return p.sessions[int(p.turn.Add(1))%len(p.sessions)]
}

// start starts the server, at the same address as before, and waits until it is ready.
// The database may not be back yet: it tries again until the context ends.
func (p *place) start(ctx context.Context) error {
	for {
		server, address, err := p.launch()
		if err == nil {
			p.mu.Lock()
			p.server, p.address = server, address
			p.mu.Unlock()
			return p.ready(ctx)
		}
		if stop := pause(ctx, 200*time.Millisecond); stop != nil {
			return errors.Join(stop, err)
		}
	}
}

// launch starts one process and reads its address from what it prints.
func (p *place) launch() (server *exec.Cmd, address string, err error) {
	listen := "127.0.0.1:0"
	if p.address != "" {
		listen = strings.TrimPrefix(p.address, "http://")
	}
	server = exec.Command(p.bin, "serve", "--listen", listen, "--database-url", p.cluster.URL, "--migrate-url", p.cluster.OwnerURL, "--log-level", "error")
	out, err := server.StdoutPipe()
	if err != nil {
		return nil, "", err
	}
	if err := server.Start(); err != nil {
		return nil, "", err
	}
	line, _ := bufio.NewReader(out).ReadString('\n')
	if address = regexp.MustCompile(`http://\S+`).FindString(line); address == "" {
		return nil, "", fmt.Errorf("the server did not start: %w", server.Wait())
	}
	go func() { _, _ = io.Copy(io.Discard, out) }()
	return server, address, nil
}

// ready waits until the server says that it is.
func (p *place) ready(ctx context.Context) error {
	for {
		if code, _, err := p.get(ctx, "/readyz"); err == nil && code == http.StatusOK {
			return nil
		}
		if err := pause(ctx, 50*time.Millisecond); err != nil {
			return fmt.Errorf("the server is not ready: %w", err)
		}
	}
}

func pause(ctx context.Context, d time.Duration) error {
	select {
	case <-ctx.Done():
		return ctx.Err()
	case <-time.After(d):
		return nil
	}
}

// kill kills the server as a crash would.
func (p *place) kill() {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.server == nil {
		return
	}
	p.peak = max(p.peak, memoryOf(p.server.Process.Pid))
	_ = p.server.Process.Kill()
	_ = p.server.Wait()
	p.server = nil
}

// memory is the most that a server has taken so far, in bytes.
func (p *place) memory() int64 {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.server != nil {
		p.peak = max(p.peak, memoryOf(p.server.Process.Pid))
	}
	return p.peak
}

// memoryOf is the most that a process has had in memory, in bytes.
func memoryOf(pid int) int64 {
	status, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		return 0
	}
	m := regexp.MustCompile(`VmHWM:\s+(\d+) kB`).FindSubmatch(status)
	if m == nil {
		return 0
	}
	n, _ := strconv.ParseInt(string(m[1]), 10, 64)
	return n << 10
}

func (p *place) get(ctx context.Context, path string) (code int, body []byte, err error) {
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, p.address+path, nil)
	if err != nil {
		return 0, nil, err
	}
	return p.do(r)
}

func (p *place) do(r *http.Request) (code int, body []byte, err error) {
	if c := p.session(); c != nil {
		r.AddCookie(c)
	}
	res, err := p.client.Do(r) //nolint:gosec // on loopback
	if err != nil {
		return 0, nil, err
	}
	defer func() { _ = res.Body.Close() }()
	body, err = io.ReadAll(res.Body)
	if at := res.Header.Get("Location"); at != "" {
		body = []byte(at)
	}
	return res.StatusCode, body, err
}

// post sends a form; body is where it leads when it is taken.
func (p *place) post(ctx context.Context, path string, typed url.Values) (code int, body []byte, err error) {
	r, err := http.NewRequestWithContext(ctx, http.MethodPost, p.address+path, strings.NewReader(typed.Encode()))
	if err != nil {
		return 0, nil, err
	}
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	return p.do(r)
}

// file sends a form with a file.
func (p *place) file(ctx context.Context, path, name string, data []byte, typed url.Values) (code int, body []byte, err error) {
	var b bytes.Buffer
	form := multipart.NewWriter(&b)
	for field, values := range typed {
		if err := form.WriteField(field, values[0]); err != nil {
			return 0, nil, err
		}
	}
	w, err := form.CreateFormFile("file", name)
	if err == nil {
		_, err = w.Write(data)
	}
	if err := errors.Join(err, form.Close()); err != nil {
		return 0, nil, err
	}
	r, err := http.NewRequestWithContext(ctx, http.MethodPost, p.address+path, &b)
	if err != nil {
		return 0, nil, err
	}
	r.Header.Set("Content-Type", form.FormDataContentType())
	return p.do(r)
}

// job opens a job and gives its address.
func (p *place) job(ctx context.Context, fleet string) (string, error) {
	code, body, err := p.post(ctx, "/jobs", url.Values{"fleet": {fleet}, "what": {"van"}, "distance": {"1000 km"}, "complaint": {"shakes"}, "by": {"Wyn"}, "pattern": {"four-across"}})
	if err != nil || code != http.StatusSeeOther {
		return "", fmt.Errorf("a job for %s: %d, %w", fleet, code, err)
	}
	return string(body), nil
}

// version is what a form of a job carries.
func (p *place) version(ctx context.Context, job string) (string, error) {
	_, page, err := p.get(ctx, job+"/watch")
	if err != nil {
		return "", err
	}
	m := regexp.MustCompile(`name="version" value="(\d+)"`).FindSubmatch(page)
	if m == nil {
		return "", errors.New("the page carries no version")
	}
	return string(m[1]), nil
}

// notes are the notes of a job's entries, in order.
func (p *place) notes(ctx context.Context, job string) (notes []string, err error) {
	code, data, err := p.get(ctx, job+"/export")
	if err != nil || code != http.StatusOK {
		return nil, fmt.Errorf("export answers %d: %w", code, err)
	}
	var file struct {
		Job struct {
			Ledger []struct {
				Note string `json:"note"`
			} `json:"ledger"`
		} `json:"job"`
	}
	if err := json.Unmarshal(data, &file); err != nil {
		return nil, err
	}
	for _, e := range file.Job.Ledger {
		notes = append(notes, e.Note)
	}
	return notes, nil
}
