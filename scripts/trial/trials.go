package main

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"io"
	"net"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/jackc/pgx/v5"
)

// written is what a writer has sent to its job, and what of it was acknowledged.
type written struct {
	job              string
	entries          []string // notes
	photos, captures int
}

// write sends entries, photos and captures until the context ends.
func (w *written) write(ctx context.Context, p *place, who int) {
	picture, trace := smallJPEG(), smallTrace()
	for n := 0; ctx.Err() == nil && n < 100_000; n++ {
		form := url.Values{"by": {"Wyn"}, "key": {fmt.Sprintf("key-%d-%d", who, n)}, "tag": {"P1"}, "condition": {"idle"}}
		var code int
		var err error
		switch {
		case n%8 == 3 && w.photos < 55:
			if code, _, err = p.file(ctx, w.job+"/photos", "x.jpg", picture, form); code == http.StatusSeeOther {
				w.photos++
			}
		case n%8 == 6 && w.captures < 35:
			if code, _, err = p.file(ctx, w.job+"/captures", "x.csv", trace, form); code == http.StatusSeeOther {
				w.captures++
			}
		case len(w.entries) < 450:
			var version string
			if version, err = p.version(ctx, w.job); err != nil {
				break
			}
			note := fmt.Sprintf("w%d-%d", who, n)
			form.Set("version", version)
			form.Set("cylinder", "2")
			form.Set("note", note)
			if code, _, err = p.post(ctx, w.job+"/watch", form); code == http.StatusSeeOther {
				w.entries = append(w.entries, note)
			}
		}
		if err != nil {
			_ = pause(ctx, 20*time.Millisecond)
		}
	}
}

// missing counts what was acknowledged and is not there, and what is there twice.
func (w *written) missing(ctx context.Context, p *place) (lost, doubled int, err error) {
	notes, err := p.notes(ctx, w.job)
	if err != nil {
		return 0, 0, err
	}
	seen := map[string]int{}
	for _, n := range notes {
		if seen[n]++; seen[n] == 2 {
			doubled++
		}
	}
	for _, n := range w.entries {
		if seen[n] == 0 {
			lost++
		}
	}
	photos, captures, err := p.files(ctx, w.job)
	// One more may have been kept, whose answer was never received.
	return lost + max(0, w.photos-photos) + max(0, w.captures-captures), doubled, err
}

// killInTurn kills server and database in turn, and waits each time until they are back.
func (p *place) killInTurn(ctx context.Context, times int) error {
	for i := range times {
		if err := pause(ctx, time.Duration(300+170*(i%5))*time.Millisecond); err != nil {
			return err
		}
		var err error
		if i%2 == 0 {
			p.kill()
			err = p.start(ctx)
		} else if err = p.cluster.Kill(); err == nil {
			err = p.ready(ctx)
		}
		if err != nil {
			return err
		}
	}
	return p.ready(ctx)
}

// kills kills server and database in turn while writers send entries, photos and captures.
// What was acknowledged must be there afterwards, once.
func kills(ctx context.Context, o options, p *place) (outcome, error) {
	const writers = 3
	all := make([]*written, writers)
	for i := range all {
		job, err := p.job(ctx, fmt.Sprintf("K-%d", i))
		if err != nil {
			return outcome{}, err
		}
		all[i] = &written{job: job}
	}
	writing, stop := context.WithCancel(ctx)
	var wg sync.WaitGroup
	for i, w := range all {
		wg.Go(func() { w.write(writing, p, i) })
	}
	err := p.killInTurn(ctx, o.kills)
	stop()
	wg.Wait()
	if err != nil {
		return outcome{}, err
	}
	var sum written
	entries, lost, doubled := 0, 0, 0
	for _, w := range all {
		l, d, err := w.missing(ctx, p)
		if err != nil {
			return outcome{}, err
		}
		lost, doubled = lost+l, doubled+d
		entries, sum.photos, sum.captures = entries+len(w.entries), sum.photos+w.photos, sum.captures+w.captures
	}
	return outcome{did: fmt.Sprintf("%d kills, %d writers", o.kills, writers),
		found: fmt.Sprintf("%d entries, %d photos and %d captures acknowledged; %d lost, %d doubled", entries, sum.photos, sum.captures, lost, doubled),
		ok:    lost == 0 && doubled == 0 && entries > 0}, nil
}

// files counts the photos and captures of a job's zip.
func (p *place) files(ctx context.Context, job string) (photos, captures int, err error) {
	code, data, err := p.get(ctx, job+"/export.zip")
	if err != nil || code != http.StatusOK {
		return 0, 0, fmt.Errorf("export answers %d: %w", code, err)
	}
	in, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return 0, 0, err
	}
	for _, f := range in.File {
		switch {
		case strings.HasPrefix(f.Name, "photos/"):
			photos++
		case strings.HasPrefix(f.Name, "captures/"):
			captures++
		}
	}
	return photos, captures, nil
}

// stalls leaves downloads unread and uploads unfinished. Everybody else must be served.
func stalls(ctx context.Context, o options, p *place) (outcome, error) {
	job, err := p.job(ctx, "S-1")
	if err != nil {
		return outcome{}, err
	}
	if code, body, err := p.file(ctx, job+"/captures", "big.csv", bigTrace(16<<20), url.Values{"by": {"Wyn"}, "condition": {"idle"}}); code != http.StatusSeeOther {
		return outcome{}, fmt.Errorf("a capture answers %d, %.200s: %w", code, body, err)
	}
	cookie := "Cookie: " + p.session().String() + "\r\n"
	half := "POST " + job + "/captures HTTP/1.1\r\nHost: 127.0.0.1\r\n" + cookie + "Content-Type: multipart/form-data; boundary=b\r\nContent-Length: 1000000\r\n\r\n" +
		"--b\r\nContent-Disposition: form-data; name=\"file\"; filename=\"x.csv\"\r\n\r\ntime,a\r\n"
	for i := range 2 * o.stalls {
		request := "GET " + job + "/captures/1/file HTTP/1.1\r\nHost: 127.0.0.1\r\n" + cookie + "\r\n"
		if i%2 == 1 {
			request = half
		}
		conn, err := (&net.Dialer{}).DialContext(ctx, "tcp", strings.TrimPrefix(p.address, "http://"))
		if err != nil {
			return outcome{}, err
		}
		defer func() { _ = conn.Close() }()
		if tcp, ok := conn.(*net.TCPConn); ok {
			_ = tcp.SetReadBuffer(2048)
		}
		if _, err := io.WriteString(conn, request); err != nil {
			return outcome{}, err
		}
	}
	served, asked := 0, 0
	for range 5 {
		for _, path := range []string{"/readyz", "/jobs", job, job + "/kv", job + "/finding"} {
			asked++
			if code, _, err := p.get(ctx, path); err == nil && code == http.StatusOK {
				served++
			}
		}
		asked++
		if code, _, err := p.file(ctx, job+"/captures", "x.csv", smallTrace(), url.Values{"by": {"Wyn"}, "condition": {"idle"}}); err == nil && code == http.StatusSeeOther {
			served++
		}
	}
	return outcome{did: fmt.Sprintf("%d downloads left unread, %d uploads unfinished", o.stalls, o.stalls),
		found: fmt.Sprintf("%d of %d requests of others served", served, asked), ok: served == asked}, nil
}

// mostMemory is what the server may take whatever is uploaded, in bytes.
const mostMemory = 400 << 20

// bombs uploads pictures and captures that are far larger than their files, several at once.
func bombs(ctx context.Context, o options, p *place) (outcome, error) {
	job, err := p.job(ctx, "B-1")
	if err != nil {
		return outcome{}, err
	}
	deep := bombPNG(100 * o.share)
	_, whole, err := p.get(ctx, job+"/export")
	if err != nil {
		return outcome{}, err
	}
	archive := bombZip(whole, deep)
	wide := largeJPEG()
	longest := bigTrace(190 << 20 / 100 * o.share)
	var answers sync.Map
	var wg sync.WaitGroup
	send := func(kind, path, name string, data []byte, form url.Values) {
		for range o.bombs {
			wg.Go(func() {
				code, _, err := p.file(ctx, path, name, data, form)
				if err != nil {
					code = -1
				}
				n, _ := answers.LoadOrStore(fmt.Sprintf("%s %d", kind, code), new(atomic.Int32))
				n.(*atomic.Int32).Add(1)
			})
		}
	}
	who := url.Values{"by": {"Wyn"}, "tag": {"P1"}, "condition": {"idle"}, "renumber": {"yes"}}
	send("zip", "/jobs/import", "a.zip", archive, who)
	send("png", job+"/photos", "a.png", deep, who)
	send("jpeg", job+"/photos", "a.jpg", wide, who)
	send("capture", job+"/captures", "a.csv", longest, who)
	served, asked := 0, 0
	done := make(chan struct{})
	go func() { wg.Wait(); close(done) }()
	for waiting := true; waiting; {
		select {
		case <-done:
			waiting = false
		case <-time.After(200 * time.Millisecond):
		}
		asked++
		if code, _, err := p.get(ctx, "/jobs"); err == nil && code == http.StatusOK {
			served++
		}
	}
	var words []string
	broken := false
	answers.Range(func(kind, n any) bool {
		words = append(words, fmt.Sprintf("%s ×%d", kind, n.(*atomic.Int32).Load()))
		broken = broken || strings.HasSuffix(kind.(string), "-1") || strings.HasSuffix(kind.(string), "500")
		return true
	})
	slices.Sort(words)
	memory := p.memory()
	return outcome{did: fmt.Sprintf("%d each of zip, PNG of %d MP and 16 bits, JPEG of 48 MP, capture of %d MB, at once", o.bombs, 60*o.share/100, 190*o.share/100),
		found: fmt.Sprintf("%d MB at most; %s; %d of %d pages served", memory>>20, strings.Join(words, ", "), served, asked),
		ok:    memory < mostMemory && !broken && served == asked}, nil
}

// editors lets one person correct a vehicle's engine while another records an entry that
// only the old engine has room for. Every job must be whole afterwards: its export imports.
func editors(ctx context.Context, o options, p *place) (outcome, error) {
	both, broken := 0, 0
	for round := range o.edits {
		fleet := fmt.Sprintf("E-%d", round)
		job, err := p.job(ctx, fleet)
		if err != nil {
			return outcome{}, err
		}
		version, err := p.version(ctx, job)
		if err != nil {
			return outcome{}, err
		}
		three := url.Values{"version": {"0"}, "what": {"van"}, "arrangement": {"inline"}, "cylinders": {"3"}, "mount": {"crossways-left"}, "ignition": {"coil-on-plug"}, "wires": {"0"}, "firing_order": {"1-2-3"}}
		var entry, engine int
		var wg sync.WaitGroup
		wg.Go(func() {
			entry, _, _ = p.post(ctx, job+"/watch", url.Values{"version": {version}, "by": {"Wyn"}, "cylinder": {"4"}})
		})
		wg.Go(func() {
			_ = pause(ctx, time.Duration(17*round%120)*time.Millisecond) // now one comes first, now the other
			engine, _, _ = p.post(ctx, "/vehicles/"+fleet, three)
		})
		wg.Wait()
		if engine != http.StatusSeeOther {
			return outcome{}, fmt.Errorf("the engine of %s is saved with %d", fleet, engine)
		}
		if entry == http.StatusSeeOther {
			both++
		}
		_, data, err := p.get(ctx, job+"/export")
		if err != nil {
			return outcome{}, err
		}
		// Under another number of the vehicle, since its engine on record is another by now.
		data = bytes.Replace(data, []byte(`"fleet": "`+fleet+`"`), []byte(`"fleet": "again-`+fleet+`"`), 1)
		if code, _, err := p.file(ctx, "/jobs/import", "a.json", data, url.Values{"renumber": {"yes"}}); err != nil || code != http.StatusSeeOther {
			broken++
		}
	}
	return outcome{did: fmt.Sprintf("%d rounds of entry and engine at once", o.edits), found: fmt.Sprintf("%d entries came first; %d jobs contradict themselves", both, broken), ok: broken == 0}, nil
}

// fullDisk writes until the disk of the database is full. The server must say so, keep what
// it acknowledged, and go on when there is room again.
func fullDisk(ctx context.Context, _ options, p *place) (outcome, error) {
	job, err := p.job(ctx, "D-1")
	if err != nil {
		return outcome{}, err
	}
	if err := p.freshLog(ctx); err != nil {
		return outcome{}, err
	}
	ballast := filepath.Join(p.dir, "ballast")
	if err := fill(ballast); err != nil {
		return outcome{}, err
	}
	var kept []string
	said, refused := "", 0
	trace := noisyTrace()
	for i := 0; i < 400 && refused < 3; i++ {
		// Captures take the room; entries show that what is acknowledged is kept.
		code, page, err := p.file(ctx, job+"/captures", "x.csv", trace, url.Values{"by": {"Wyn"}, "condition": {"idle"}})
		if err == nil && code == http.StatusServiceUnavailable {
			refused++
			said = sentence(page)
		}
		version, err := p.version(ctx, job)
		if err != nil {
			continue
		}
		note := fmt.Sprintf("d-%d", i)
		if code, _, err := p.post(ctx, job+"/watch", url.Values{"version": {version}, "by": {"Wyn"}, "cylinder": {"2"}, "note": {note}}); err == nil && code == http.StatusSeeOther {
			kept = append(kept, note)
		}
	}
	if err := os.Remove(ballast); err != nil {
		return outcome{}, err
	}
	if err := p.ready(ctx); err != nil {
		return outcome{}, err
	}
	notes, err := p.notes(ctx, job)
	if err != nil {
		return outcome{}, err
	}
	lost := 0
	for _, n := range kept {
		if !slices.Contains(notes, n) {
			lost++
		}
	}
	version, err := p.version(ctx, job)
	if err != nil {
		return outcome{}, err
	}
	code, _, err := p.post(ctx, job+"/watch", url.Values{"version": {version}, "by": {"Wyn"}, "cylinder": {"3"}})
	return outcome{did: "a disk of 200 MB filled", found: fmt.Sprintf("%d captures refused: “%s”; %d entries acknowledged, %d lost; with room again an entry is answered %d", refused, said, len(kept), lost, code),
		ok: err == nil && refused > 0 && strings.Contains(said, "disk") && lost == 0 && code == http.StatusSeeOther}, nil
}

// freshLog lets the database begin a new file of its log, whose room is taken at once. Without room for the next one the
// database ends and starts again and again, which the pages tell as a database that does not answer; here its tables are
// to meet the full disk.
func (p *place) freshLog(ctx context.Context) error {
	conn, err := pgx.Connect(ctx, p.cluster.AdminURL)
	if err != nil {
		return err
	}
	for _, statement := range []string{"checkpoint", "select pg_switch_wal()", "checkpoint"} {
		if _, err := conn.Exec(ctx, statement); err != nil {
			return errors.Join(err, conn.Close(ctx))
		}
	}
	return conn.Close(ctx)
}

// fill takes all but a few megabytes of a disk.
func fill(name string) error {
	f, err := os.Create(name)
	if err != nil {
		return err
	}
	defer func() { _ = f.Close() }()
	block := make([]byte, 1<<20)
	for {
		if _, err := f.Write(block); err != nil { // it is full: some room is given back
			about, err := f.Stat()
			if err != nil {
				return err
			}
			return f.Truncate(max(0, about.Size()-4<<20))
		}
	}
}

// sentence is what a page of failure says.
func sentence(page []byte) string {
	_, after, _ := bytes.Cut(page, []byte("</h1>"))
	_, after, _ = bytes.Cut(after, []byte("<p>"))
	words, _, _ := bytes.Cut(after, []byte("</p>"))
	return string(words)
}

func smallJPEG() []byte {
	var b bytes.Buffer
	p := image.NewRGBA(image.Rect(0, 0, 64, 48))
	p.Set(3, 3, color.RGBA{200, 0, 0, 255})
	_ = jpeg.Encode(&b, p, nil)
	return b.Bytes()
}

// largeJPEG is a photo as large as cameras take it: 48 megapixels.
func largeJPEG() []byte {
	var b bytes.Buffer
	_ = jpeg.Encode(&b, image.NewYCbCr(image.Rect(0, 0, 8000, 6000), image.YCbCrSubsampleRatio420), &jpeg.Options{Quality: 20})
	return b.Bytes()
}

// bombPNG is a picture of 16 bits, 6 000 pixels high, in a small file.
func bombPNG(width int) []byte {
	var b bytes.Buffer
	_ = (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&b, blank{image.Rect(0, 0, width, 6_000)})
	return b.Bytes()
}

// blank is a picture without memory of its own.
type blank struct{ r image.Rectangle }

func (b blank) ColorModel() color.Model { return color.NRGBA64Model }
func (b blank) Bounds() image.Rectangle { return b.r }
func (b blank) At(int, int) color.Color { return color.NRGBA64{1, 2, 3, 0xfffe} }

// bombZip is an archive of a job with a picture in it.
func bombZip(job, picture []byte) []byte {
	var b bytes.Buffer
	out := zip.NewWriter(&b)
	for _, f := range []struct {
		name string
		data []byte
	}{{"case.json", job}, {"index.json", []byte(`{"photos":[{"file":"photos/1.jpg","tag":"P1","made":"2026-01-02T03:04:05Z","by":"x"}],"captures":[]}`)}, {"photos/1.jpg", picture}} {
		if w, err := out.Create(f.name); err == nil {
			_, _ = w.Write(f.data)
		}
	}
	_ = out.Close()
	return b.Bytes()
}

// trace writes a capture of four channels: a peak of each cylinder every 80 ms, at 100 kHz.
// noise is added to each figure.
func trace(lines int, noise func(i int) float64) []byte {
	var b bytes.Buffer
	b.WriteString("time,a,b,c,d\n")
	for i := range lines {
		fmt.Fprintf(&b, "%.5f", float64(i)/100_000)
		for c := range 4 {
			v := noise(4*i + c)
			switch d := (i + 8000 - 2000*c) % 8000; {
			case d < 2:
				v += 9
			case d < 120:
				v += 1.2
			}
			fmt.Fprintf(&b, ",%.3f", v)
		}
		b.WriteByte('\n')
	}
	return b.Bytes()
}

func smallTrace() []byte { return trace(40_000, func(i int) float64 { return 0.002 * float64(i%3) }) }

// bigTrace is a capture of about so many bytes.
func bigTrace(size int) []byte {
	return trace(size/32, func(i int) float64 { return 0.002 * float64(i%3) })
}

// noisyTrace is a capture that does not compress well.
func noisyTrace() []byte {
	state := uint32(1)
	return trace(60_000, func(int) float64 {
		state = state*1664525 + 1013904223
		return float64(state>>22) / 5000
	})
}
