package scope

import "slices"

// Pyramid holds the samples of a channel with the minimum and maximum of blocks at several
// levels. Any interval is drawn from a few blocks.
type Pyramid struct {
	samples []Half
	levels  [][]span // blocks of step, step², … samples
}

type span struct{ low, high float32 }

// step is the number of blocks in one block of the next level.
const step = 16

// NewPyramid builds one. It keeps a reference to the samples.
func NewPyramid(samples []Half) *Pyramid {
	p := &Pyramid{samples: samples}
	if len(samples) <= step {
		return p
	}
	level := make([]span, 0, len(samples)/step+1)
	for block := range slices.Chunk(samples, step) {
		s := span{block[0].Float(), block[0].Float()}
		for _, v := range block[1:] {
			s.low, s.high = min(s.low, v.Float()), max(s.high, v.Float())
		}
		level = append(level, s)
	}
	p.levels = append(p.levels, level)
	for len(level) > step {
		next := make([]span, 0, len(level)/step+1)
		for block := range slices.Chunk(level, step) {
			next = append(next, over(block))
		}
		p.levels = append(p.levels, next)
		level = next
	}
	return p
}

func over(of []span) span {
	s := of[0]
	for _, o := range of[1:] {
		s.low, s.high = min(s.low, o.low), max(s.high, o.high)
	}
	return s
}

// Len returns the number of samples.
func (p *Pyramid) Len() int { return len(p.samples) }

// Window returns the samples of [from, to) in a number of columns: the exact minimum and
// maximum of each. With fewer samples than columns each sample is its own column. Samples
// outside the trace are omitted.
func (p *Pyramid) Window(from, to, columns int) (low, high []float32) {
	from, to = max(0, from), min(len(p.samples), to)
	if from >= to || columns < 1 {
		return nil, nil
	}
	columns = min(columns, to-from)
	low, high = make([]float32, columns), make([]float32, columns)
	for c := range columns {
		s := p.between(from+int(int64(to-from)*int64(c)/int64(columns)), from+int(int64(to-from)*int64(c+1)/int64(columns)))
		low[c], high[c] = s.low, s.high
	}
	return low, high
}

// between returns the minimum and maximum of an interval, using the largest blocks inside it.
func (p *Pyramid) between(from, to int) span {
	s := span{p.samples[from].Float(), p.samples[from].Float()}
	take := func(o span) { s.low, s.high = min(s.low, o.low), max(s.high, o.high) }
	for from < to {
		size, level := 1, -1
		for level+1 < len(p.levels) && from%(size*step) == 0 && from+size*step <= to {
			size *= step
			level++
		}
		if level < 0 {
			take(span{p.samples[from].Float(), p.samples[from].Float()})
		} else {
			take(p.levels[level][from/size])
		}
		from += size
	}
	return s
}
