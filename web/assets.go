package web

import (
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"mime"
	"net/http"
	"path"
	"strings"
)

//go:embed all:static
var built embed.FS

//go:embed mark.svg
var mark string

// assets are the built files. Their names carry a hash of their content, so a
// browser may keep them for good.
type assets struct {
	names map[string]string
	files map[string][]byte
}

func loadAssets() (*assets, error) {
	manifest, err := built.ReadFile("static/manifest.json")
	if err != nil {
		return nil, errors.New("the assets are not in this binary: run make build, which makes them first")
	}
	a := &assets{files: map[string][]byte{}}
	if err := json.Unmarshal(manifest, &a.names); err != nil {
		return nil, fmt.Errorf("assets: %w", err)
	}
	entries, err := built.ReadDir("static")
	if err != nil {
		return nil, err
	}
	for _, e := range entries {
		data, err := built.ReadFile("static/" + e.Name())
		if err != nil {
			return nil, err
		}
		a.files[e.Name()] = data
	}
	return a, nil
}

func (a *assets) url(name string) string { return "/static/" + a.names[name] }

func (a *assets) serve(w http.ResponseWriter, r *http.Request) {
	name := path.Base(r.URL.Path)
	if name == "mark.svg" {
		w.Header().Set("Content-Type", "image/svg+xml")
		w.Header().Set("Cache-Control", "public, max-age=86400")
		_, _ = w.Write([]byte(mark))
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

// accepts says whether the browser takes an encoding.
func accepts(r *http.Request, encoding string) bool {
	for _, part := range strings.Split(r.Header.Get("Accept-Encoding"), ",") {
		name, quality, _ := strings.Cut(part, ";")
		if strings.TrimSpace(name) == encoding {
			return strings.ReplaceAll(quality, " ", "") != "q=0"
		}
	}
	return false
}
