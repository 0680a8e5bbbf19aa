#!/usr/bin/env bash
# rooms_test.sh SOURCES ROOMS: every include of one room's file in another's is of a room that it stands after. ROOMS
# has a line a room: its folder, then those it may include.
set -euo pipefail
sources=$1 rooms=$2
status=0
while read -r room may; do
  [ -n "$(ls "$sources/$room"/*.cpp 2>/dev/null)" ] || { echo "$room: no such room, or nothing in it"; status=1; }
  while IFS=: read -r file line included; do
    other=$(dirname "$included")
    [[ "$other" == "$room" || " $may " == *" $other "* ]] && continue
    echo "$file:$line: $room includes $included but does not stand after $other (src/CMakeLists.txt)"
    status=1
  done < <(grep -nHoP '#include "\K[^"]+/[^"]+(?=")' "$sources/$room"/*.h "$sources/$room"/*.cpp 2>/dev/null || true)
done <"$rooms"
# A file beside the rooms is in none.
stray=$(find "$sources/predict" "$sources/amp" -maxdepth 1 -type f)
[ -z "$stray" ] || { echo "in no room: $stray"; status=1; }
exit $status
