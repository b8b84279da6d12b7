// Package officetest has LibreOffice, headless, read and write files for tests.
package officetest

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// Convert brings files into another format and returns them in their order. to is a
// filter for writing, whose first word is the ending; in one for reading, or empty.
func Convert(t *testing.T, in, to string, files ...string) [][]byte {
	t.Helper()
	ending, _, _ := strings.Cut(to, ":")
	out := t.TempDir()
	args := []string{"-env:UserInstallation=file://" + filepath.Join(os.TempDir(), "jollysatchel-office"), "--headless"}
	if in != "" {
		args = append(args, "--infilter="+in)
	}
	args = append(append(args, "--convert-to", to, "--outdir", out), files...)
	if text, err := exec.Command("soffice", args...).CombinedOutput(); err != nil {
		t.Fatalf("LibreOffice (packages libreoffice-calc, libreoffice-writer): %v\n%s", err, text)
	}
	all := make([][]byte, len(files))
	for i, file := range files {
		b, err := os.ReadFile(filepath.Join(out, strings.TrimSuffix(filepath.Base(file), filepath.Ext(file))+"."+ending))
		if err != nil {
			t.Fatal(err)
		}
		all[i] = b
	}
	return all
}

// File writes a file of a name into a folder of the test's.
func File(t *testing.T, name string, b []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, b, 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}
