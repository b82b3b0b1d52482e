package obd

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"glenmist/core/trouble"
)

// vehicle answers requests from a table: the bytes of a request, and what each unit says.
type vehicle map[string]map[Unit]string

func (v vehicle) answers(q Request) (all []Answer) {
	for _, u := range []Unit{0x7E8, 0x7E9} {
		if text, ok := v[q.String()][u]; ok {
			a := Answer{Unit: u}
			if code, refused := strings.CutPrefix(text, "7F "); refused {
				r := Refusal{Service: q.Service}
				_, _ = fmt.Sscanf(code, "%X", &r.Code)
				a.Err = r
			} else {
				for _, hex := range strings.Fields(text) {
					var b byte
					_, _ = fmt.Sscanf(hex, "%X", &b)
					a.Data = append(a.Data, b)
				}
			}
			all = append(all, a)
		}
	}
	return all
}

// The reader asks for everything that is supported and for nothing else, and lists the requests that failed.
func TestReadEverything(t *testing.T) {
	v := vehicle{
		"01 00":                {0x7E8: "00 98 18 00 01", 0x7E9: "00 80 08 00 00"}, // 01 04 05 0C 0D 20; 01 0D
		"01 20":                {0x7E8: "20 00 00 00 00"},
		"01 01":                {0x7E8: "01 81 07 65 00", 0x7E9: "01 00 04 00 00"},
		"03":                   {0x7E8: "01 03 02", 0x7E9: "01 07 30"},
		"07":                   {0x7E8: "01 03 02", 0x7E9: "00"},
		"0A":                   {0x7E8: "7F 11"},
		"02 02 00":             {0x7E8: "02 00 03 02", 0x7E9: "02 00 00 00"},
		"02 04 00 05 00 0C 00": {0x7E8: "04 00 80 05 00 7B 0C 00 0B B8"},
		"02 0D 00":             {0x7E8: "0D 00 00"},
		"01 04 05 0C 0D":       {0x7E8: "04 33 05 7B 0C 0B B8 0D 00", 0x7E9: "0D 05"},
		"06 A0":                {0x7E8: "A0 D0 00 00 00"}, // A1 A2 A4
		"06 A1":                {0x7E8: "A1 0C 24 00 07 00 00 FF FF"},
		"06 A2":                {0x7E8: "A2 0B 24 00 00 00 00 FF FF A2 0C 24 00 00 00 00 FF FF"},
		"06 A4":                {0x7E8: "A4 0B 24 00 02 00 00 FF FF A4 0C 24 00 07 00 00 FF FF"},
		"09 0A":                {0x7E8: "0A 01 45 4E 47 00 00"},
	}
	r := NewReader()
	n := 0
	for q, ok := r.Next(); ok; q, ok = r.Next() {
		if v[q.String()] == nil {
			t.Errorf("%s is asked for without support", q)
		}
		r.Take(q, v.answers(q))
		if n++; n > 40 {
			t.Fatal("the reader does not end")
		}
	}
	if done, of := r.Progress(); done != of || n != len(v) {
		t.Errorf("%d of %d done, %d asked of %d", done, of, n, len(v))
	}
	s := r.Scan()
	var codes []string
	for _, c := range s.Codes {
		codes = append(codes, fmt.Sprintf("%s %s %s", c.Code, c.State, c.Text))
	}
	if got := strings.Join(codes, ", "); got != "P0302 pending , P0302 stored , P0730 stored unit 7E9" {
		t.Error(got)
	}
	if len(s.Units) != 2 || s.Names[0x7E8] != "ENG" || s.Status == nil || !s.Status.Lamp || len(s.Asked) != 2 {
		t.Errorf("%+v", s)
	}
	if f := s.Frame; f == nil || *f.Code != trouble.Code(0x0302) || *f.RPM != 750 || *f.Load != 50.2 || *f.Coolant != 83 || *f.Speed != 0 {
		t.Errorf("%+v", s.Frame)
	}
	if speed, ok := s.Value(Speed); !ok || speed != 0 { // that of the first unit
		t.Errorf("speed %v", speed)
	}
	if len(s.Misfires) != 3 || s.Misfires[2] != (Misfires{3, 7, 2}) || s.Misfires[0].Cylinder != 0 {
		t.Errorf("%+v", s.Misfires)
	}
	if len(s.Problems) != 1 || !errors.Is(s.Problems[0].Err, Refusal{PermanentCodes, 0x11}) {
		t.Errorf("%+v", s.Problems)
	}
}

// The reader stops after three requests without an answer, and after three answers that break off.
func TestReaderGivesUp(t *testing.T) {
	for name, c := range map[string]struct {
		answers []Answer
		units   int
		err     error
	}{"nobody answers": {nil, 0, ErrNoAnswer}, "answers break off": {[]Answer{{Unit: engineUnit, Err: ErrSilent}}, 1, ErrSilent}} {
		r, n := NewReader(), 0
		for q, ok := r.Next(); ok; q, ok = r.Next() {
			r.Take(q, c.answers)
			n++
		}
		if s := r.Scan(); n != 3 || len(s.Units) != c.units || len(s.Problems) != n || !errors.Is(s.Problems[0].Err, c.err) {
			t.Errorf("%s: %d requests, %+v", name, n, s)
		}
	}
}

// A log in the notation of candump files, with a line as it prints on the screen, an error frame and traffic of others. Codes are
// read, cleared, and read again.
const logged = `(1700000000.000000) can0 7DF#0103000000000000
(1700000000.004100) can0 7E8#1008430303020304
(1700000000.004300) can0 7E0#3000000000000000
(1700000000.009000) can0 1A0#FFFF00FF00FF00FF
(1700000000.012000) can0 7E8#2103000000000000
(1700000001.000000) can0 7DF#02010C0000000000 T
 (1700000001.011000)  can0  7E8   [8]  04 41 0C 1A F8 00 00 00
(1700000001.500000) can0 20000080#0000000000000000
(1700000002.000000) can0 7DF#0104000000000000
(1700000002.030000) can0 7E8#037F047800000000
(1700000003.700000) can0 7E8#0144000000000000
(1700000009.000000) can0 7DF#0103000000000000
(1700000009.008000) can0 7E8#0243000000000000
`

func TestReadLog(t *testing.T) {
	log, err := ReadLog(strings.NewReader(logged))
	if err != nil || log.Frames != 12 || log.Requests != 4 || log.SkippedLines != 1 || !strings.Contains(log.Skipped[0], "line 8") {
		t.Fatalf("%+v, %v", log, err)
	}
	if len(log.Scans) != 2 || !log.Cleared[0] || log.Cleared[1] {
		t.Fatalf("%+v", log.Scans)
	}
	before, after := log.Scans[0], log.Scans[1]
	if rpm, _ := before.Value(RPM); len(before.Codes) != 3 || before.Codes[2].Code.String() != "P0300" || rpm != 1726 {
		t.Errorf("before: %+v", before)
	}
	if len(after.Codes) != 0 || len(after.Asked) != 1 {
		t.Errorf("after: %+v", after)
	}
	for name, text := range map[string]string{"nothing": "", "no log": "P0302 stored\nP0304 pending\n", "a long line": strings.Repeat("0", 500)} {
		if _, err := ReadLog(strings.NewReader(text)); err == nil {
			t.Errorf("%s is taken for a log", name)
		}
	}
}

func FuzzReadLog(f *testing.F) {
	f.Add(logged)
	f.Fuzz(func(t *testing.T, text string) {
		log, err := ReadLog(strings.NewReader(text))
		if err == nil && (log.Frames == 0 || len(log.Scans) != len(log.Cleared) || len(log.Scans) > maxLogScans) {
			t.Errorf("%+v", log)
		}
	})
}
