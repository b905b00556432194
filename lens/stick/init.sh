#!/bin/busybox sh
# First and only program on the stick: shows the patterns in the frame buffer that the firmware left, by keys and by a timer.
# Beside it: /patterns/NN-name.gz (rows of blue, green, red, nothing), /colours/NN-name.gz (one colour without end), /facts.
export PATH=/bin
/bin/busybox mkdir -p /proc /sys /dev
/bin/busybox --install -s /bin
mount -t proc proc /proc
mount -t sysfs sysfs /sys
mount -t devtmpfs dev /dev 2>/dev/null
exec </dev/console >/dev/console 2>&1
echo 1 >/proc/sys/kernel/printk
. /facts # WIDTH HEIGHT STEP_S
. /pad_rows.sh
for module in $(cat /modules/order); do insmod "/modules/$module" 2>/dev/null; done

say() { printf '%s\r\n' "$@"; }

stop_with() {
	say "" "$@" "" "Switch the machine off with its power key." ""
	while :; do sleep 3600; done
}

fb=/sys/class/graphics/fb0
[ -e $fb/virtual_size ] || stop_with "This machine gives no frame buffer, so nothing can be shown from this stick." \
	"Take its built-in colours or self test instead, or an external screen to tell panel from board."
exec </dev/tty1 >/dev/tty1 2>&1
size=$(cat $fb/virtual_size)
stride=$(cat $fb/stride)
bits=$(cat $fb/bits_per_pixel)
order=$(dmesg | sed -n 's/.*Truecolor: .*shift=[0-9]*:\([0-9:]*\).*/\1/p' | tail -n 1)
[ "$bits" = 32 ] && [ "${order:-16:8:0}" = 16:8:0 ] || stop_with \
	"The frame buffer of this machine has $bits bits a pixel in the order ${order:-unknown}; the patterns need 32, blue first." \
	"Take its built-in colours or self test instead."

clear
say "Clear Lens test patterns" ""
if [ "$size" = "$WIDTH,$HEIGHT" ]; then
	frames=/patterns
	say "$WIDTH x $HEIGHT, pixel for pixel. Photograph each picture from straight in front, the whole panel in view."
	if [ "$stride" != $((WIDTH * 4)) ]; then
		say "" "Preparing the pictures ..."
		frames=/padded
		pad_rows /patterns $frames $((WIDTH * 4)) "$stride" "$HEIGHT"
	fi
else
	frames=/colours
	say "NOT PIXEL FOR PIXEL: this machine shows ${size%,*} x ${size#*,}, the stick was made for $WIDTH x $HEIGHT." \
		"Plain colours follow. They show lines, zones and large faults; single pixels are not proven." \
		"If the panel has ${size%,*} x ${size#*,} pixels, make a stick for that: ./clear-lens stick --panel ${size%,*}x${size#*,}"
fi
say "" "Space or Enter: next    Backspace: back    1 to 9: that picture    T: by itself, every $STEP_S s    Q: switch off" "" \
	"Without a key the pictures change by themselves. Brightness to the top, charger in." \
	"Power off before any cover comes off. Cracked glass: eye protection, clear film. Local rules come first." "" \
	"Begins in $STEP_S s, or with any key."
IFS= read -rsn1 -t "$STEP_S" key
# from here on only pictures: the console lets go of the frame buffer
for console in /sys/class/vtconsole/vtcon*; do
	grep -q "frame buffer" "$console/name" && echo 0 >"$console/bind"
done

count=$(ls $frames/*.gz | wc -l)
bytes=$((stride * ${size#*,}))
number=1
timed=1
while :; do
	zcat "$(ls $frames/*.gz | sed -n "${number}p")" | head -c $bytes >/dev/fb0
	key=
	if [ $timed = 1 ]; then
		if IFS= read -rsn1 -t "$STEP_S" key; then timed=0; else key=timer; fi
	else
		IFS= read -rsn1 key || sleep 1
	fi
	if [ "$key" = "$(printf '\033')" ]; then # an arrow comes as three characters
		IFS= read -rsn2 -t 1 key
	fi
	case $key in
	[1-9]) [ "$key" -le "$count" ] && number=$key ;;
	[tT]) timed=1 ;;
	[qQ]) poweroff -f ;;
	"$(printf '\177')" | "$(printf '\010')" | '[D' | '[A') number=$(((number + count - 2) % count + 1)) ;;
	*) number=$((number % count + 1)) ;;
	esac
done
