package live

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"time"

	"glenmist/core/trouble"
)

// Bounds of a table, and the number of its columns before the trims.
const (
	mostSeconds = 1e6
	mostCount   = 1<<16 - 1
	figures     = 6
)

// Table writes samples as CSV: time, speeds, load, coolant, trims by bank, and the misfires of each cylinder. Figures that were
// not read are empty.
type Table struct {
	banks, cylinders int
	out              *csv.Writer
	to               bytes.Buffer
}

// NewTable returns a table for an engine with that many banks and cylinders.
func NewTable(banks, cylinders int) *Table {
	t := &Table{banks: banks, cylinders: cylinders}
	t.out = csv.NewWriter(&t.to)
	return t
}

// Head returns the names of the columns.
func (t *Table) Head() []string {
	head := []string{"time_s", "started_s", "rpm", "load_pct", "coolant_c", "speed_kmh"}
	for b := 1; b <= t.banks; b++ {
		head = append(head, fmt.Sprintf("short_trim_%d_pct", b), fmt.Sprintf("long_trim_%d_pct", b))
	}
	for c := 1; c <= t.cylinders; c++ {
		head = append(head, fmt.Sprintf("misfires_%d", c))
	}
	return head
}

// WriteHead writes the names of the columns to w.
func (t *Table) WriteHead(w io.Writer) error {
	out := csv.NewWriter(w)
	err := out.Write(t.Head())
	out.Flush()
	if err == nil {
		err = out.Error()
	}
	return err
}

// Add appends a sample.
func (t *Table) Add(s Sample) {
	row := []string{strconv.FormatFloat(s.At.Seconds(), 'f', 2, 64), figure(s.Started, 0), figure(s.RPM, 0), figure(s.Load, 1), figure(s.Coolant, 0), figure(s.Speed, 0)}
	for b := 1; b <= t.banks; b++ {
		short, long := math.NaN(), math.NaN()
		for _, trim := range s.Trims {
			if trim.Bank == b {
				short, long = trim.Short, trim.Long
			}
		}
		row = append(row, figure(short, 1), figure(long, 1))
	}
	for c := range t.cylinders {
		text := ""
		if c < len(s.Counts) {
			text = strconv.Itoa(s.Counts[c])
		}
		row = append(row, text)
	}
	_ = t.out.Write(row) // a buffer takes all
}

func figure(v float64, digits int) string {
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return ""
	}
	return strconv.FormatFloat(v, 'f', digits, 64)
}

// Len returns the number of bytes that wait.
func (t *Table) Len() int {
	t.out.Flush()
	return t.to.Len()
}

// Cut returns and removes the rows that wait.
func (t *Table) Cut() []byte {
	t.out.Flush()
	rows := bytes.Clone(t.to.Bytes())
	t.to.Reset()
	return rows
}

// ParseTable reads what [Table] writes, with its head. It fails with the number of the line that is wrong.
func ParseTable(r io.Reader, banks, cylinders int) (all []Sample, err error) {
	t := NewTable(banks, cylinders)
	in := csv.NewReader(r)
	in.FieldsPerRecord = len(t.Head())
	for line := 1; ; line++ {
		row, err := in.Read()
		if errors.Is(err, io.EOF) {
			return all, nil
		}
		if err != nil {
			return nil, fmt.Errorf("expected %d columns of a drive: %w", in.FieldsPerRecord, err)
		}
		if line == 1 {
			continue
		}
		s, err := t.parse(row)
		if err != nil {
			return nil, fmt.Errorf("line %d: %w", line, err)
		}
		all = append(all, s)
	}
}

func (t *Table) parse(row []string) (s Sample, err error) {
	n := make([]float64, len(row))
	for i, text := range row {
		if n[i] = math.NaN(); text != "" {
			if n[i], err = strconv.ParseFloat(text, 64); err != nil {
				return s, fmt.Errorf("expected a number for %s, got %q", t.Head()[i], text)
			}
		}
	}
	if !(n[0] >= 0 && n[0] <= mostSeconds) {
		return s, fmt.Errorf("expected a time of 0 to %.0f s, got %q", mostSeconds, row[0])
	}
	s = Sample{At: time.Duration(math.Round(n[0]*100)) * 10 * time.Millisecond, Started: n[1], RPM: n[2], Load: n[3], Coolant: n[4], Speed: n[5]}
	for b := range t.banks {
		if short, long := n[figures+2*b], n[figures+1+2*b]; !math.IsNaN(short) && !math.IsNaN(long) {
			s.Trims = append(s.Trims, trouble.Trim{Bank: b + 1, Short: short, Long: long})
		}
	}
	for c := range t.cylinders {
		count := n[figures+2*t.banks+c]
		if math.IsNaN(count) {
			continue
		}
		if !(count >= 0 && count <= mostCount) {
			return s, fmt.Errorf("expected misfires of 0 to %d, got %q", mostCount, row[figures+2*t.banks+c])
		}
		s.Counts = append(s.Counts, int(count))
	}
	return s, nil
}
