package scope

import (
	"bufio"
	"io"
	"strconv"
)

// SyncName is the name of a channel that marks cylinder 1.
const SyncName = "Sync"

// WriteCSV writes a trace as a table that [ReadCSV] reads: milliseconds, and kilovolts of each
// channel to the volt.
func WriteCSV(w io.Writer, t *Trace) error {
	out := bufio.NewWriter(w)
	line := []byte("Time (ms)")
	for _, c := range t.Channels {
		line = append(append(append(line, ','), c.Name...), " (kV)"...)
	}
	if len(t.Channels) > 0 {
		for i := range t.Channels[0].Samples {
			if _, err := out.Write(append(line, '\n')); err != nil {
				return err
			}
			line = strconv.AppendFloat(line[:0], 1000*float64(i)/t.Rate, 'f', 4, 64)
			for _, c := range t.Channels {
				line = strconv.AppendFloat(append(line, ','), float64(c.Samples[i].Float()), 'f', 3, 32)
			}
		}
	}
	if _, err := out.Write(append(line, '\n')); err != nil {
		return err
	}
	return out.Flush()
}
