package spool

import (
	"errors"
	"io"
	"os"
	"strings"
	"testing"
)

func TestFileHoldsWhatWasWritten(t *testing.T) {
	f, err := New(100).File(100)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(f.Name()); !os.IsNotExist(err) {
		t.Errorf("the file has a name that would outlive us: %v", err)
	}
	if n, err := io.Copy(f, strings.NewReader("some text")); err != nil || n != 9 {
		t.Fatal(n, err)
	}
	if err := f.Rewind(); err != nil {
		t.Fatal(err)
	}
	got, err := io.ReadAll(f)
	if err != nil || string(got) != "some text" || f.Size() != 9 {
		t.Errorf("%q of %d bytes, %v", got, f.Size(), err)
	}
	if err := f.Close(); err != nil {
		t.Error(err)
	}
}

// All files of a pool share its bytes, and give them back once when they are closed.
func TestPoolAndFilesAreBounded(t *testing.T) {
	p := New(10)
	file := func(most int64) *File {
		t.Helper()
		f, err := p.File(most)
		if err != nil {
			t.Fatal(err)
		}
		return f
	}
	a, b := file(8), file(8)
	if _, err := a.ReadFrom(strings.NewReader(strings.Repeat("x", 9))); !errors.Is(err, TooLong{8}) {
		t.Errorf("nine bytes into eight: %v", err)
	}
	if _, err := a.WriteString("1234567"); err != nil {
		t.Fatal(err)
	}
	if _, err := b.WriteString("1234"); !errors.Is(err, ErrFull) {
		t.Errorf("eleven bytes into ten: %v", err)
	}
	for range 2 { // closing twice gives nothing back twice
		_ = a.Close()
	}
	if _, err := b.WriteString("12345678"); err != nil || p.Used() != 8 {
		t.Errorf("%v; %d bytes used, want 8", err, p.Used())
	}
	_ = b.Close()
	if p.Used() != 0 {
		t.Errorf("%d bytes used by no file", p.Used())
	}
}
