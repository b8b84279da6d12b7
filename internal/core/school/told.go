package school

import (
	"strconv"

	"jollysatchel/internal/core/change"
)

// Acts are what the log keeps of the school itself, which is no class's.
var Acts = []string{"school-begun", "school-changed", "account-kept", "account-added", "account-changed", "account-by-service",
	"book-list", "list-accounts", "codes-given", "term-brought"}

// Told returns what differs between a school's settings before and after a change, for the log.
func Told(before, after Settings) []change.Told {
	yes := strconv.FormatBool
	was, is := before.Post, after.Post
	out := change.Differing([]change.Told{
		{What: "school-name", From: before.Name, To: after.Name},
		{What: "school-domain", From: before.Domain, To: after.Domain},
		{What: "school-zone", From: before.Zone, To: after.Zone},
		{What: "school-language", From: before.Language, To: after.Language},
		{What: "school-satchel", From: strconv.FormatInt(before.SatchelMB, 10), To: strconv.FormatInt(after.SatchelMB, 10)},
		{What: "school-office-codes", From: yes(before.OfficeCodes), To: yes(after.OfficeCodes)},
		{What: "school-staff-reset", From: yes(before.StaffReset), To: yes(after.StaffReset)},
		{What: "school-outside-mail", From: yes(before.OutsideMail), To: yes(after.OutsideMail)},
		{What: "school-list-accounts", From: yes(before.ListAccounts), To: yes(after.ListAccounts)},
		{What: "school-site", From: before.Site, To: after.Site},
		{What: "post-server", From: was.Server, To: is.Server},
		{What: "post-port", From: strconv.Itoa(was.Port), To: strconv.Itoa(is.Port)},
		{What: "post-security", From: was.Security, To: is.Security},
		{What: "post-user", From: was.User, To: is.User},
		{What: "post-from", From: was.From, To: is.From},
		{What: "post-minute", From: strconv.Itoa(was.PerMinute), To: strconv.Itoa(is.PerMinute)},
		{What: "service-issuer", From: before.Service.Issuer, To: after.Service.Issuer},
		{What: "service-client", From: before.Service.Client, To: after.Service.Client},
		{What: "service-name", From: before.Service.Name, To: after.Service.Name},
		{What: "service-make", From: yes(before.Service.Make), To: yes(after.Service.Make)},
	}...)
	if change.Digest(before.Words) != change.Digest(after.Words) {
		out = append(out, change.Told{What: "school-words"})
	}
	return out
}
