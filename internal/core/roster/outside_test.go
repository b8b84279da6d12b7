package roster

import (
	"encoding/json"
	"os/exec"
	"strings"
	"testing"
)

// Verdicts on addresses beside those of the package isemail 3.2.0 (npm), which
// follows RFC 5321, 5322 and 6531. Where the two differ the reason is given.
func TestAddressesAgainstIsemail(t *testing.T) {
	differ := map[string]string{
		`"nokuthula"@kq.example`: "a quoted part before the @ is right by RFC 5321 and no school's address",
		`"a@b"@kq.example`:       "the same",
		"nokuthula@[192.0.2.1]":  "an address at a bare machine number is right by RFC 5321 and no school's address",
	}
	addresses := []string{
		"nokuthula.dube@kestrelquay.example", "n@kq.example", "a+b@kq.example", "o'leary@kq.example",
		"x-1_2@sub.kq.example", "#!$%&'*+/=?^_`{|}~-@kq.example", "7@kq.example", "n@k-q.example", "N.DUBE@KQ.EXAMPLE",
		"用户@例子.example", "ñandú@kq.example", "zoë@münchen.example",
		"", "@", "nokuthula", "nokuthula@", "@kq.example", "a b@kq.example", "a@@kq.example", "a@b@kq.example",
		".a@kq.example", "a.@kq.example", "a..b@kq.example", "a,b@kq.example", "a:b@kq.example", "a;b@kq.example",
		"a<b@kq.example", "a(b@kq.example", `a\b@kq.example`, "nokuthula(comment)@kq.example", `"nokuthula dube"@kq.example`, "a[b@kq.example",
		"a@-kq.example", "a@kq-.example", "a@kq..example", "a@.kq.example", "a@kq.example.", "a@kq,example",
		"a@k q.example", "a\tb@kq.example", "a\n@kq.example",
		"a@" + strings.Repeat("x", 63) + ".example", "a@" + strings.Repeat("x", 64) + ".example", strings.Repeat("x", 64) +
			"@kq.example", strings.Repeat("x", 65) + "@kq.example",
		"a@" + strings.Repeat(strings.Repeat("x", 49)+".", 5) + "example",
	}
	for a := range differ {
		addresses = append(addresses, a)
	}
	in, err := json.Marshal(addresses)
	if err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command("node", "-e",
		`const e=require('isemail');let s='';process.stdin.on('data',d=>s+=d).on('end',()=>console.log(JSON.stringify(JSON.parse(s).map(a=>e.validate(a,{minDomainAtoms:1})))))`)
	cmd.Dir = "../../../ui"
	cmd.Stdin = strings.NewReader(string(in))
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("isemail (in ui/node_modules, installed by make): %v", err)
	}
	var theirs []bool
	if err := json.Unmarshal(out, &theirs); err != nil {
		t.Fatal(err)
	}
	for i, a := range addresses {
		ours := AddressForm(a) == ""
		if why, known := differ[a]; ours != theirs[i] != known {
			t.Errorf("%q: right for us: %v, for isemail: %v %s", a, ours, theirs[i], why)
		}
	}
}
