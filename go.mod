module glenmist

go 1.26

require github.com/go-json-experiment/json v0.0.0-20260213210345-44df1a37e875
