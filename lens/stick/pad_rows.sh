# Some frame buffers have rows that are longer than the panel's: each row of a frame is followed by what nobody sees.

# pad_rows FROM INTO ROW_BYTES STRIDE_BYTES ROWS: every packed frame of one folder into the other
pad_rows() {
	mkdir -p "$2"
	for frame in "$1"/*.gz; do
		zcat "$frame" >"$2/frame"
		row=0
		while [ $row -lt "$5" ]; do
			dd if="$2/frame" bs="$3" skip=$row count=1 2>/dev/null
			head -c $(($4 - $3)) /dev/zero
			row=$((row + 1))
		done | gzip -1 >"$2/${frame##*/}"
	done
	rm "$2/frame"
}
