package page

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strings"
)

// Assets holds the built files. Their names contain a hash of the content, so browsers can
// cache them permanently.
type Assets struct {
	names map[string]string
	files map[string][]byte
}

// LoadAssets reads the built files from static/ and the logo from mark.svg.
func LoadAssets(built fs.FS) (*Assets, error) {
	manifest, err := fs.ReadFile(built, "static/manifest.json")
	if err != nil {
		return nil, errors.New("the assets are not in this binary: run make build, which makes them first")
	}
	a := &Assets{files: map[string][]byte{}}
	if err := json.Unmarshal(manifest, &a.names); err != nil {
		return nil, fmt.Errorf("assets: %w", err)
	}
	entries, err := fs.ReadDir(built, "static")
	if err != nil {
		return nil, err
	}
	if a.files["mark.svg"], err = fs.ReadFile(built, "mark.svg"); err != nil {
		return nil, err
	}
	for _, e := range entries {
		data, err := fs.ReadFile(built, "static/"+e.Name())
		if err != nil {
			return nil, err
		}
		a.files[e.Name()] = data
	}
	return a, nil
}

// Text returns a built file as text, such as the licence notices; "" if it does not exist.
func (a *Assets) Text(name string) string { return string(a.files[name]) }

func (a *Assets) url(name string) string { return "/static/" + a.names[name] }

// Serve sends a built file, compressed if the browser accepts it.
func (a *Assets) Serve(w http.ResponseWriter, r *http.Request) {
	name := path.Base(r.URL.Path)
	if name == "mark.svg" {
		w.Header().Set("Content-Type", "image/svg+xml")
		w.Header().Set("Cache-Control", "public, max-age=86400")
		_, _ = w.Write(a.files[name])
		return
	}
	data, ok := a.files[name]
	if !ok || strings.HasPrefix(name, ".") || r.URL.Path != "/static/"+name {
		http.NotFound(w, r)
		return
	}
	h := w.Header()
	h.Set("Content-Type", mime.TypeByExtension(path.Ext(name)))
	if path.Ext(name) == ".woff2" {
		h.Set("Content-Type", "font/woff2")
	}
	h.Set("Cache-Control", "public, max-age=31536000, immutable")
	h.Add("Vary", "Accept-Encoding")
	for _, enc := range []struct{ name, ext string }{{"br", ".br"}, {"gzip", ".gz"}} {
		if packed, ok := a.files[name+enc.ext]; ok && accepts(r, enc.name) {
			h.Set("Content-Encoding", enc.name)
			data = packed
			break
		}
	}
	_, _ = w.Write(data)
}

// accepts reports whether the browser accepts an encoding.
func accepts(r *http.Request, encoding string) bool {
	for _, part := range strings.Split(r.Header.Get("Accept-Encoding"), ",") {
		name, quality, _ := strings.Cut(part, ";")
		if strings.TrimSpace(name) == encoding {
			return strings.ReplaceAll(quality, " ", "") != "q=0"
		}
	}
	return false
}
