package cluster

import (
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"syscall"
)

// state is the folder of one private cluster:
//
//	data            the server's own folder
//	password        of the superuser; mode 600, ours
//	password-ROLE   of each other role
//	log             what the server printed
//	lock            held while it runs
type state struct {
	dir string
	acc account
}

func (s state) data() string { return filepath.Join(s.dir, "data") }
func (s state) log() string  { return filepath.Join(s.dir, "log") }

// place picks the folder: the one asked for where the server's user can reach
// it, else one that it can, named after it.
func place(want string, acc account) (state, error) {
	abs, err := filepath.Abs(want)
	if err != nil {
		return state{}, err
	}
	sum := sha256.Sum256([]byte(abs))
	name := "glenmist-" + hex.EncodeToString(sum[:6])
	tries := []string{abs}
	if acc.switched {
		tries = append(tries, filepath.Join("/var/lib", name))
	} else if home, err := os.UserHomeDir(); err == nil {
		tries = append(tries, filepath.Join(home, ".local", "state", name))
	}
	var problems []error
	for _, dir := range tries {
		s := state{dir, acc}
		err := s.prepare()
		if err == nil {
			return s, nil
		}
		problems = append(problems, err)
	}
	return state{}, fmt.Errorf("no folder for PostgreSQL's data that its user can reach: %w", errors.Join(problems...))
}

// prepare makes the folder, with a data folder that the server's user can write
// in. It leaves nothing behind where that cannot be had.
func (s state) prepare() error {
	mode := fs.FileMode(0o700)
	if s.acc.switched {
		mode = 0o711 // the server's user passes through to its data
	}
	_, statErr := os.Stat(s.dir)
	existed := statErr == nil
	if err := os.MkdirAll(s.dir, mode); err != nil {
		return err
	}
	if err := os.Mkdir(s.data(), 0o700); err != nil && !errors.Is(err, fs.ErrExist) {
		return err
	}
	if err := s.acc.owns(s.data()); err != nil {
		return err
	}
	if s.acc.reaches(s.data()) {
		return nil
	}
	if !existed {
		_ = os.RemoveAll(s.dir)
	}
	return fmt.Errorf("%s: the user that runs PostgreSQL cannot reach it", s.dir)
}

// madeBy is the major version that made the data, or "" for none yet.
func (s state) madeBy() string {
	text, err := os.ReadFile(filepath.Join(s.data(), "PG_VERSION"))
	if err != nil {
		return ""
	}
	return strings.TrimSpace(string(text))
}

// lock keeps a second start off the same data.
func (s state) lock() (*os.File, error) {
	f, err := os.OpenFile(filepath.Join(s.dir, "lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		_ = f.Close()
		return nil, fmt.Errorf("%s is in use: another Glenmist runs on the same data; stop it first", s.dir)
	}
	return f, nil
}

// secret reads the password of a role, or makes one.
func (s state) secret(role string) (string, error) {
	name := "password"
	if role != superuser {
		name += "-" + role
	}
	name = filepath.Join(s.dir, name)
	if text, err := os.ReadFile(name); err == nil {
		return strings.TrimSpace(string(text)), nil
	}
	secret := rand.Text()
	return secret, os.WriteFile(name, []byte(secret+"\n"), 0o600)
}
