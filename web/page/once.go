package page

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"net/url"

	"glenmist/spool"
	"glenmist/store"
)

// NewKey returns a key for a form that adds something.
func NewKey() string { return rand.Text() }

// RequestKey returns the key of a request for [store.Store.Once]: a digest of the form's key,
// the values and the uploaded file. A form sent twice has the same key. A form changed before
// the second time has another. It is "" for a form without a key.
func RequestKey(typed url.Values, file *spool.File) (string, error) {
	if typed.Get("key") == "" {
		return "", nil
	}
	same := url.Values{}
	for name, values := range typed {
		if name != "version" && name != "entries" && name != "draft" {
			same[name] = values
		}
	}
	sum := sha256.New()
	fmt.Fprintln(sum, same.Encode())
	if file != nil {
		if _, err := io.Copy(sum, io.NewSectionReader(file, 0, file.Size())); err != nil {
			return "", err
		}
	}
	return hex.EncodeToString(sum.Sum(nil)), nil
}

// Once carries a request out once, however often it is sent. A request without a key runs
// every time.
func (s *App) Once(ctx context.Context, key string, do func(*store.Store) (to string, err error)) (to string, err error) {
	if key != "" {
		return s.Jobs.Once(ctx, key, do)
	}
	err = s.Jobs.Together(ctx, func(db *store.Store) error {
		to, err = do(db)
		return err
	})
	return to, err
}
