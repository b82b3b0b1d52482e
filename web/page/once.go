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

// NewKey is a key for a form that opens or adds something.
func NewKey() string { return rand.Text() }

// RequestKey is the key of a request for [store.Store.Once]: a digest of the form's own key,
// what was typed, and the file that came with it, if one did. A form that is sent twice has
// the same; one that was changed before it was sent again has another. It is "" for a form
// without a key.
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

// Once carries a request out once, however often it is sent; one without a key each time.
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
