// Package cluster runs a private PostgreSQL on loopback from Debian's packages,
// for the demo and for tests. It never touches a system cluster: data, password
// and port are its own.
package cluster

import (
	"errors"
	"fmt"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
)

// ErrNoServer says that the server programs are not installed.
var ErrNoServer = errors.New("PostgreSQL's server programs (initdb, postgres) were not found: " +
	"run scripts/need.sh, or install Debian's package postgresql, or set GLENMIST_PG_BIN to their folder")

// programs finds the folder of initdb and postgres: GLENMIST_PG_BIN, else the
// version that made the data, else the newest of Debian's, else the path.
func programs(madeBy string) (string, error) {
	has := func(dir string) bool {
		for _, name := range []string{"initdb", "postgres"} {
			if _, err := os.Stat(filepath.Join(dir, name)); err != nil { //nolint:gosec // whoever starts us names the folder
				return false
			}
		}
		return true
	}
	if dir := os.Getenv("GLENMIST_PG_BIN"); dir != "" {
		if !has(dir) {
			return "", fmt.Errorf("GLENMIST_PG_BIN: expected a folder with initdb and postgres, got %s", dir)
		}
		return dir, nil
	}
	best, newest := "", -1
	dirs, _ := filepath.Glob("/usr/lib/postgresql/*/bin")
	for _, dir := range dirs {
		version := filepath.Base(filepath.Dir(dir))
		n, err := strconv.Atoi(version)
		if err != nil || !has(dir) {
			continue
		}
		if version == madeBy {
			return dir, nil
		}
		if n > newest {
			best, newest = dir, n
		}
	}
	if madeBy != "" {
		return "", fmt.Errorf("the data was made by PostgreSQL %s, whose programs are not installed: "+
			"install postgresql-%s, or start afresh with make demo-reset", madeBy, madeBy)
	}
	if best != "" {
		return best, nil
	}
	if path, err := exec.LookPath("initdb"); err == nil {
		if resolved, err := filepath.EvalSymlinks(path); err == nil && has(filepath.Dir(resolved)) {
			return filepath.Dir(resolved), nil
		}
	}
	return "", ErrNoServer
}

// account is the user that the server runs as. PostgreSQL refuses to run as
// root, so root lends it the postgres user of Debian's package.
type account struct {
	switched bool
	uid, gid int
}

func serverAccount() (account, error) {
	if os.Geteuid() != 0 {
		return account{uid: os.Geteuid(), gid: os.Getegid()}, nil
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		return account{}, fmt.Errorf("PostgreSQL does not run as root, and there is no user postgres to run it as: %w; install Debian's package postgresql", err)
	}
	uid, err1 := strconv.Atoi(u.Uid)
	gid, err2 := strconv.Atoi(u.Gid)
	if err := errors.Join(err1, err2); err != nil {
		return account{}, err
	}
	return account{switched: true, uid: uid, gid: gid}, nil
}

// command makes a command that runs as the account, in a process group of its
// own so that a Ctrl-C at the terminal does not reach it before we stop it.
func (a account) command(name string, args ...string) *exec.Cmd {
	cmd := exec.Command(name, args...)
	cmd.Dir = "/"
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	if a.switched {
		cmd.SysProcAttr.Credential = &syscall.Credential{Uid: uint32(a.uid), Gid: uint32(a.gid)}
		cmd.Env = []string{"PATH=/usr/bin:/bin", "LC_ALL=C", "HOME=/"}
	} else {
		cmd.Env = append(os.Environ(), "LC_ALL=C")
	}
	return cmd
}

// owns gives a file or folder to the account.
func (a account) owns(path string) error {
	if !a.switched {
		return nil
	}
	return os.Chown(path, a.uid, a.gid)
}

// reaches reports whether the account can write in a folder, by trying it.
func (a account) reaches(dir string) bool {
	probe := filepath.Join(dir, ".probe")
	out, err := a.command("/bin/sh", "-c", `: > "$1" && rm "$1"`, "sh", probe).CombinedOutput()
	return err == nil && strings.TrimSpace(string(out)) == ""
}
