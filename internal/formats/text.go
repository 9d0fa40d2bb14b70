package formats

import (
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"golang.org/x/net/html/charset"
	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/htmlindex"
	"golang.org/x/text/encoding/unicode"
)

// Encodings are the ways of writing text that a person may choose from where none is certain.
func Encodings() []string {
	return []string{"utf-8", "windows-1252", "iso-8859-2", "iso-8859-15", "macintosh"}
}

// decodeText reads a file as text. Where the file does not say how it is written and is no UTF-8, as is used, or
// a guess where as is empty; certain is false for a guess.
func decodeText(data []byte, as string) (text []byte, name string, certain bool, err error) {
	read := func(e encoding.Encoding, name string, certain bool) ([]byte, string, bool, error) {
		text, err := e.NewDecoder().Bytes(data)
		if err != nil || bytes.IndexByte(text, 0) >= 0 {
			return nil, "", false, wrong("This is no text.")
		}
		return text, name, certain, nil
	}
	switch {
	case bytes.HasPrefix(data, []byte("\xef\xbb\xbf")):
		data = data[3:]
		if !utf8.Valid(data) {
			return nil, "", false, wrong("This is no text.")
		}
		return data, "utf-8", true, nil
	case bytes.HasPrefix(data, []byte("\xff\xfe")), bytes.HasPrefix(data, []byte("\xfe\xff")):
		return read(unicode.UTF16(unicode.LittleEndian, unicode.UseBOM), "utf-16", true)
	}
	if big, is := sixteen(data); is {
		order := unicode.LittleEndian
		if big {
			order = unicode.BigEndian
		}
		return read(unicode.UTF16(order, unicode.IgnoreBOM), "utf-16", true)
	}
	if bytes.IndexByte(data, 0) >= 0 {
		return nil, "", false, wrong("This is no text.")
	}
	if utf8.Valid(data) && as == "" {
		return data, "utf-8", true, nil
	}
	if as != "" {
		if !slices.Contains(Encodings(), as) {
			return nil, "", false, wrong("%.60q is no way of writing text that is known here.", as)
		}
		e, err := htmlindex.Get(as)
		if err != nil {
			return nil, "", false, err
		}
		return read(e, as, true)
	}
	e, name, _ := charset.DetermineEncoding(data[:min(len(data), 1024)], "text/plain")
	if name == "utf-8" { // the part that was looked at is; the whole is not
		e, name = charset.Lookup("windows-1252")
	}
	return read(e, name, false)
}

// sixteen reports whether data without a mark are UTF-16: in plain tables every other byte is zero.
func sixteen(data []byte) (big, is bool) {
	n := min(len(data), 400) &^ 1
	if n < 4 || len(data)%2 != 0 {
		return false, false
	}
	even, odd := 0, 0
	for i := 0; i < n; i += 2 {
		if data[i] == 0 {
			even++
		}
		if data[i+1] == 0 {
			odd++
		}
	}
	switch {
	case odd > n/4 && even == 0:
		return false, true
	case even > n/4 && odd == 0:
		return true, true
	}
	return false, false
}

// Table is a file of rows and columns.
type Table struct {
	Header []string
	Rows   []TableLine
	// Encoding is how its text is written, and Certain whether the file says so; Separator stands between cells.
	Encoding  string
	Certain   bool
	Separator rune
	// Sample is the first line with letters beyond plain ones, for a person to look whether they are right.
	Sample string
}

// TableLine is one row with its line in the file.
type TableLine struct {
	Line  int
	Cells []string
}

// ReadTable reads a table: comma, semicolon or tab between its cells, whichever its header has. The encoding is
// recognised where as is empty. At most so many rows are read, and a [*FileError] says what is wrong.
func ReadTable(data []byte, as string, most int) (Table, error) {
	var t Table
	text, name, certain, err := decodeText(data, as)
	if err != nil {
		return t, err
	}
	t.Encoding, t.Certain = name, certain
	text = bytes.TrimLeft(text, "\r\n \t\ufeff")
	if len(bytes.TrimSpace(text)) == 0 {
		return t, wrong("The file is empty.")
	}
	if !certain {
		t.Sample = sampleOf(string(text))
	}
	t.Separator = separatorOf(string(text))
	r := csv.NewReader(bytes.NewReader(text))
	r.Comma, r.FieldsPerRecord = t.Separator, -1
	if t.Header, err = r.Read(); err != nil {
		t.Header = nil
		return t, &FileError{1, "The header row cannot be read: look whether each quotation mark has its second."}
	}
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			return t, nil
		}
		if err != nil {
			line := 0
			if at, is := errors.AsType[*csv.ParseError](err); is {
				line = at.StartLine
			}
			return t, &FileError{line, "This line cannot be read: look whether each quotation mark has its second."}
		}
		if len(t.Rows) == most {
			return t, wrong("A table is read in with %d lines at most: split it.", most)
		}
		line, _ := r.FieldPos(0)
		t.Rows = append(t.Rows, TableLine{line, cells})
	}
}

// separatorOf is what stands between the cells of a header row, outside of quotation marks.
func separatorOf(text string) rune {
	counts := map[rune]int{}
	quoted := false
	for _, r := range text {
		switch {
		case r == '"':
			quoted = !quoted
		case r == '\n' && !quoted:
			goto counted
		case !quoted && (r == ',' || r == ';' || r == '\t'):
			counts[r]++
		}
	}
counted:
	best := ','
	for _, r := range []rune{';', '\t'} {
		if counts[r] > counts[best] {
			best = r
		}
	}
	return best
}

// sampleOf is the first line of a text that has letters beyond plain ones, cut to be read at a glance.
func sampleOf(text string) string {
	for line := range strings.Lines(text) {
		if i := strings.IndexFunc(line, func(r rune) bool { return r > 0x7f }); i >= 0 {
			runes := []rune(strings.TrimSpace(line))
			return string(runes[:min(len(runes), 120)])
		}
	}
	return ""
}
