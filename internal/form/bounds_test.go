package form

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"
)

// archived is an office text whose body is given, with further entries.
func archived(t *testing.T, body string, more ...string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	add := func(name, text string) {
		w, err := z.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := w.Write([]byte(text)); err != nil {
			t.Fatal(err)
		}
	}
	add("word/document.xml", `<w:document xmlns:w="x"><w:body>`+body+`</w:body></w:document>`)
	for i, text := range more {
		add(fmt.Sprint("media/", i), text)
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// A small file that unpacks to much is looked through in a bounded time, whatever it is made of,
// and not any longer once anyone who asked has gone.
func TestTangledForm(t *testing.T) {
	for name, body := range map[string]string{
		"brackets alone":     `<w:p><w:t>` + strings.Repeat("[", 7<<20) + `</w:t></w:p>`,
		"brackets that shut": `<w:p><w:t>` + strings.Repeat("[", 100) + strings.Repeat("[a]", 2<<20) + `</w:t></w:p>`,
		"many small texts":   `<w:p>` + strings.Repeat(`<w:t>[Class]</w:t>`, 380_000) + `</w:p>`,
		"one letter each":    `<w:p>` + strings.Repeat(`<w:t>[</w:t><w:t>]</w:t>`, 300_000) + `</w:p>`,
		"many paragraphs":    strings.Repeat(`<w:p><w:t>[Class]</w:t></w:p>`, 19_000),
	} {
		b := archived(t, body)
		began := time.Now()
		f, err := Read(t.Context(), bytes.NewReader(b), int64(len(b)), ".docx", known)
		if took := time.Since(began); took > 15*time.Second {
			t.Errorf("%s: %d bytes took %v", name, len(b), took)
		}
		if err == nil && len(f.Asks) == 0 && name == "many paragraphs" || err != nil && !errors.Is(err, ErrUnreadable) {
			t.Errorf("%s: %v", name, err)
		}
		gone, stop := context.WithCancel(t.Context())
		stop()
		if name != "brackets alone" && name != "brackets that shut" { // those are one text
			if _, err := Read(gone, bytes.NewReader(b), int64(len(b)), ".docx", known); !errors.Is(err, context.Canceled) &&
				!errors.Is(err, ErrUnreadable) {
				t.Errorf("%s, nobody waiting: %v", name, err)
			}
		}
	}
}

// An archive that names the same bytes as many entries isn't looked into: written again it would
// be as many times as large. Nor is one with a name twice.
func TestEntriesShareNothing(t *testing.T) {
	b := archived(t, `<w:p><w:t>[Class]</w:t></w:p>`, strings.Repeat("x", 1000), strings.Repeat("y", 1000))
	if _, err := Read(t.Context(), bytes.NewReader(b), int64(len(b)), ".docx", known); err != nil {
		t.Fatal(err)
	}
	shared := bytes.Clone(b)
	entries := [][]byte{}
	for at := 0; ; {
		i := bytes.Index(shared[at:], []byte("PK\x01\x02")) // APPNOTE.TXT 4.3.12: a header of the central directory
		if i < 0 {
			break
		}
		entries = append(entries, shared[at+i:])
		at += i + 4
	}
	copy(entries[2][42:46], entries[1][42:46]) // where its local header is
	if _, err := Read(t.Context(), bytes.NewReader(shared), int64(len(shared)), ".docx", known); !errors.Is(err, ErrUnreadable) {
		t.Errorf("two entries of the same bytes: %v", err)
	}
	beyond := bytes.Clone(b)
	at := bytes.LastIndex(beyond, []byte("PK\x01\x02"))
	binary.LittleEndian.PutUint32(beyond[at+20:], 1<<30) // its size
	if _, err := Read(t.Context(), bytes.NewReader(beyond), int64(len(beyond)), ".docx", known); !errors.Is(err, ErrUnreadable) {
		t.Errorf("an entry beyond the end: %v", err)
	}
	var twice bytes.Buffer
	z := zip.NewWriter(&twice)
	for range 2 {
		w, err := z.Create("word/document.xml")
		if err != nil {
			t.Fatal(err)
		}
		fmt.Fprint(w, "<a/>")
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	if _, err := Read(t.Context(), bytes.NewReader(twice.Bytes()), int64(twice.Len()), ".docx", known); !errors.Is(err, ErrUnreadable) {
		t.Errorf("a name twice: %v", err)
	}
}
