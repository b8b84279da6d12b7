package demo

import (
	"cmp"
	"fmt"
	"strings"
	"unicode"

	"jollysatchel/internal/core/accounts"

	"golang.org/x/text/unicode/norm"
)

// Invented people of an invented school. Nobody here exists.
const domain = "kestrelquay.example"

// A pupil is one invented student. A blank address is made of the name.
type pupil struct {
	given, family, address string
}

// Staff of Kestrel Quay.
var staff = []accounts.Account{
	{ID: "staff-oduya", Address: "ifeoma.oduya@" + domain, Given: "Ifeoma", Family: "Oduya", Role: accounts.Staff},
	{ID: "staff-lindqvist", Address: "mats.lindqvist@" + domain, Given: "Mats", Family: "Lindqvist", Role: accounts.Staff},
	{ID: "staff-amaral", Address: "rita.amaral@" + domain, Given: "Rita", Family: "Amaral", Role: accounts.Staff},
	{ID: "office", Address: "office@" + domain, Given: "Harbour", Family: "Office", Role: accounts.Office},
}

var tide7B = []pupil{
	{"Tolu", "Adeyemi", ""}, {"Freja", "Ångström", ""}, {"Tariq", "Bensaïd", ""}, {"Inés", "Castellanos Ruiz", ""},
	{"Orla", "D’Arcy", ""}, {"Mateo", "de la Cruz", ""}, {"Nokuthula", "Dube", ""}, {"Jonas", "Eriksen", ""},
	{"Élodie", "Fontaine", ""}, {"Sunniva", "Haugen", ""}, {"Mila", "Иванова", "mila.ivanova@" + domain}, {"Ari", "Jóhannsson", ""},
	{"Deniz", "Kaya", ""}, {"Zofia", "Kowalczyk", ""}, {"Aino", "Laine", ""}, {"Quill", "Marsh", "quil.marsh@" + domain},
	{"Rowan", "Marsh", ""}, {"そら", "中村", "sora.nakamura@" + domain}, {"Saoirse", "Ní Bhriain", ""}, {"Chidi", "Okafor", ""},
	{"Tomás", "Pereira", ""}, {"Illari", "Quispe", ""}, {"Eero", "Rautio", ""}, {"Beatriz", "Silva", ""},
	{"", "Ximena", ""}, {"Thị Minh Khai", "Trần", ""},
	{"Wilhelmina Alexandrine Josephine", "van der Aerschot-Zuiderzeewerken", "w.vanderaerschot@" + domain},
	{"ليلى", "حداد", "layla.haddad@" + domain},
}

var boat8A = []pupil{
	{"Amara", "Abiodun", ""}, {"Kwame", "Asante", ""}, {"Lena", "Baumgärtner", ""}, {"Sanne", "Blom", ""}, {"Nerea", "Castro", ""},
	{"Minh Anh", "Đặng", ""}, {"Kelechi", "Eze", ""}, {"Ingrid", "Fjeld", ""}, {"Pia", "Gallo", ""}, {"Oona", "Hämäläinen", ""},
	{"Sade", "Idowu", ""}, {"Līga", "Jansone", ""}, {"Bence", "Kovács", ""},
	{"Alva", "Lindqvist", "alva.lindqvist@" + domain}, {"Jules", "Moreau", ""},
	{"Lan", "Nguyễn", ""}, {"Finn", "O’Leary", ""}, {"Pedro", "Oliveira", ""},
	{"Eero", "Rautio", "eero.rautio2@" + domain}, {"Eero", "Rautio", "eero.rautio3@" + domain},
	{"Nokuthula", "Dube", ""}, {"Ana", "Sousa", ""}, {"Yusuf", "Şahin", ""}, {"Maja", "Šimić", ""}, {"Tane", "Tāwhiri", ""},
	{"Ebba", "Ulfsdotter", ""}, {"Rasmus", "Vestergård", ""}, {"Hana", "Wójcik", ""},
	{"दिया", "शर्मा", "diya.sharma@" + domain}, {"Ilse", "Zandstra", ""}, {"Noa", "כהן", "noa.cohen@" + domain},
}

var weatherClub = []pupil{
	{"Nokuthula", "Dube", ""}, {"Jonas", "Eriksen", ""}, {"Pia", "Gallo", ""}, {"Oona", "Hämäläinen", ""}, {"Deniz", "Kaya", ""},
	{"Finn", "O’Leary", ""}, {"Beatriz", "Silva", ""}, {"Tane", "Tāwhiri", ""}, {"Ilse", "Zandstra", ""},
}

// history is the list of the class that isn't set up yet.
var history = []pupil{
	{"Wren", "Ashdown", ""}, {"Cosmin", "Bălan", ""}, {"Iris", "Calloway", ""}, {"Dara", "Ó Súilleabháin", ""}, {"Maren", "Dahl", ""},
	{"Yara", "El-Amin", ""}, {"Otis", "Fairweather", ""}, {"Giulia", "Ferrante", ""}, {"Hugo", "Gonçalves", ""}, {"Petra", "Horvat", ""},
	{"Kofi", "Mensah", ""}, {"Isla", "Northcote", ""}, {"Bruno", "Peixoto", ""}, {"Sanna", "Virtanen", ""},
	{"Anouk", "de Wit", ""}, {"Emeka", "Nwosu", ""}, {"Freya", "Skarsgård", ""}, {"Ivo", "Tomašević", ""}, {"Joana", "Teixeira", ""},
	{"Kirsi", "Uotila", ""}, {"Leander", "Vogt", ""}, {"Malia", "Kealoha", ""}, {"Nils", "Østergaard", ""}, {"Óscar", "Ibáñez", ""},
	{"Priya", "Raman", ""}, {"Rhys", "Llewellyn", ""}, {"Soraya", "Amini", ""}, {"Tuva", "Lindqvist", ""},
}

// addressOf makes the school's usual address of a name.
func (p pupil) addressOf() string {
	if p.address != "" {
		return p.address
	}
	plain := func(s string) string {
		s = strings.NewReplacer("đ", "d", "Đ", "d", "ø", "o", "ł", "l", "ß", "ss", "æ", "ae", "ı", "i").Replace(s)
		return strings.Map(func(r rune) rune {
			r = unicode.ToLower(r)
			if r >= 'a' && r <= 'z' {
				return r
			}
			return -1
		}, norm.NFD.String(s))
	}
	parts := []string{}
	for _, s := range []string{p.given, p.family} {
		if x := plain(s); x != "" {
			parts = append(parts, x)
		}
	}
	return strings.Join(parts, ".") + "@" + domain
}

// mixedUp are addresses that a list has instead of a student's own: another student's.
var mixedUp = map[string]string{"aino.laine@" + domain: "amara.abiodun@" + domain}

// unknown to the school book although they stand on a list.
var unknown = map[string]bool{"quil.marsh@" + domain: true}

// everybody is the school book: everybody on a list once, with a number.
func everybody() []accounts.Account {
	out := append([]accounts.Account{}, staff...)
	seen := map[string]bool{}
	number := 70388
	add := func(p pupil) {
		a := p.addressOf()
		if seen[a] || unknown[a] {
			return
		}
		seen[a] = true
		number += 3
		out = append(out, accounts.Account{ID: "student-" + strings.TrimSuffix(a, "@"+domain), Address: a, Given: p.given,
			Family: p.family, Number: fmt.Sprint(number), Role: accounts.Student})
	}
	for _, list := range [][]pupil{tide7B, boat8A, weatherClub, history} {
		for _, p := range list {
			add(p)
		}
	}
	add(pupil{"Quill", "Marsh", "quill.marsh@" + domain})
	return out
}

// csv writes a class list as a records system exports it.
func csv(list []pupil, period string, levels bool) string {
	numbers := map[string]string{}
	for _, a := range everybody() {
		numbers[a.Address] = a.Number
	}
	var b strings.Builder
	b.WriteString("Stud No,Surname,First name,E-mail (school),Period,Set,Boat group\n")
	for i, p := range list {
		level := ""
		if levels {
			level = string("ABC"[i%3])
		}
		number := numbers[p.addressOf()]
		if number == "" {
			number = "70999"
		}
		fmt.Fprintf(&b, "%s,%s,%s,%s,%s,%s,%s\n", number, p.family, p.given, cmp.Or(mixedUp[p.addressOf()], p.addressOf()), period, level,
			[]string{"Gull", "Tern", "Heron", "Kestrel"}[i%4])
	}
	return b.String()
}

// HistoryList is the list for the class that isn't set up yet, as a records
// system exports it; docs/harbour-history.csv holds the same.
func HistoryList() string { return csv(history, "2", true) }
