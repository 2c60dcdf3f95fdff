#!/usr/bin/env bash
# A stranger who knows nothing of the server but its address, and reads its description: every path, method, field and example below is
# taken from there. Arguments: address, name, password, text, folder.
set -euo pipefail
address=$1 name=$2 password=$3 text=$4 folder=$5
api=$folder/openapi.json cookies=$folder/cookies
curl -sSf "$address/api/openapi.json" -o "$api"

# Reads the description, or an answer, by an expression of JavaScript on `it`.
of() { node -e 'const it = JSON.parse(require("fs").readFileSync(process.argv[1], "utf8")); console.log(eval(process.argv[2]))' "$1" "$2"; }
# The method and the path of the operation whose summary says something.
operation() {
  of "$api" "Object.entries(it.paths).flatMap(([path, ways]) => Object.entries(ways).map(([way, { summary }]) => ({ path, way, summary })))
    .filter(({ summary }) => /$1/i.test(summary)).map(({ path, way }) => way.toUpperCase() + ' ' + path)[0]"
}
# Asks for it, with its example as the body, changed by an expression on `body`.
ask() {
  local method path body
  read -r method path <<<"$(operation "$1")"
  path=${path//'{id}'/${3:-}}
  body=$(of "$api" "(() => { const body = it.paths['${path//"/${3:-}/"/"/{id}/"}'].${method,,}.requestBody?.content['application/json'].example; $2; return JSON.stringify(body) ?? ''; })()")
  curl -sSf -X "$method" -b "$cookies" -c "$cookies" ${body:+-H 'Content-Type: application/json' -d "$body"} "$address$path"
}

ask 'signs a person in' "body.name = '$name'; body.password = '$password'"
ask 'lists the tables' '' >"$folder/list.json"
table=$(of "$folder/list.json" 'it.tables[0].id')
columns=$(of "$folder/list.json" 'JSON.stringify(it.tables[0].columns.map(({ name }) => name))')
ask 'searches a table' "body.question.threaded = $columns; body.question.strands[0].text = '$text'" "$table" >"$folder/found.json"
of "$folder/found.json" '`${it.shown} of ${it.total} rows`'
of "$folder/found.json" 'it.rows.map(({ cells }) => cells.join(",")).join("\n")'
ask 'takes rows out' "body.question.threaded = $columns; body.question.strands[0].text = ''" "$table" >"$folder/rows.csv"
echo "taken out: $(wc -l <"$folder/rows.csv") lines"
