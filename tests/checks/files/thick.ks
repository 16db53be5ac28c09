# Larkmoor host, el9
text
cdrom
eula --agreed
lang en_GB.UTF-8 --addsupport=pt_PT.UTF-8,de_DE.UTF-8
keyboard --vckeymap=gb --xlayouts='gb','pt (nodeadkeys)'
timezone Europe/Lisbon --utc
rootpw --iscrypted $y$j9T$larkmoorlarkmoor0000$larkmoorlarkmoorlarkmoorlarkmoorlarkmoor000
user --name=observer --uid=2001 --gid=2001 --groups=wheel,systemd-journal --homedir=/srv/observer --password=$6$rounds=65536$larkmoor07$2sYv0Bz8mZr9T1mXq3b8k0Qz7m8t6jvJb2w4n1x5y7p9r3s5u7w9y1a3c5e7g9i1k3m5o7q9s1u3w5y7a9c1e. --iscrypted
group --name=readings --gid=3001
network --device=00:00:5e:00:53:10 --bootproto=static --ip=192.0.2.40 --netmask=255.255.255.192 --gateway=192.0.2.1 --nameserver=192.0.2.53 --hostname=lmr-host-09.larkmoor.example --onboot=on --mtu=9000
network --device=br0 --bridgeslaves=eno3 --bridgeopts=stp=no --bootproto=dhcp --nodefroute
network --device=eno4 --bootproto=dhcp --onboot=off --noipv4 --ipv6=auto
firewall --enabled --port=8080:tcp,5000-5010:udp --service=ssh,http --trust=br0
selinux --enforcing
services --disabled=cups,avahi-daemon --enabled=sshd,chronyd
ignoredisk --only-use=disk/by-id/wwn-0x5000c500larkmoor,sdb
zerombr
clearpart --all --initlabel --disklabel=gpt --drives=disk/by-id/wwn-0x5000c500larkmoor,sdb
part /boot/efi --fstype=efi --size=1024 --ondisk=disk/by-id/wwn-0x5000c500larkmoor
part /boot --fstype=xfs --size=2048 --ondisk=disk/by-id/wwn-0x5000c500larkmoor --label=boot
part pv.1 --size=40000 --grow --ondisk=disk/by-id/wwn-0x5000c500larkmoor
part pv.2 --size=1000 --grow --ondisk=sdb --encrypted --passphrase=tide-9
volgroup vg0 --pesize=4096 pv.1
volgroup vg1 pv.2
logvol none --vgname=vg1 --name=pool --thinpool --size=900 --grow
logvol /srv --vgname=vg1 --name=srv --thin --poolname=pool --size=500000 --fstype=xfs
logvol / --vgname=vg0 --name=root --fstype=xfs --percent=60
logvol /var/log --vgname=vg0 --name=log --fstype=xfs --percent=20 --fsoptions="nodev,nosuid,noexec"
logvol swap --vgname=vg0 --name=swap --hibernation
bootloader --location=mbr --append="crashkernel=1G-4G:192M,4G-64G:256M" --timeout=5
%addon com_redhat_kdump --enable --reserve-mb=auto
%end
%addon org_fedora_oscap
content-type = scap-security-guide
profile = xccdf_org.ssgproject.content_profile_cis
%end
%packages --ignoremissing --inst-langs=en,pt
@^minimal-environment
@standard
@"Development Tools"
kernel-devel
python3*
-*-firmware
-@dial-up
%end
%pre --erroronfail --log=/tmp/pre.log
ping -c1 192.0.2.1
%end
%post --interpreter=/usr/bin/python3
import pathlib
pathlib.Path("/etc/station").write_text("lmr\n")
%end
%post --nochroot --log=/mnt/sysroot/root/post.log
cp -r /run/install/repo/station /mnt/sysroot/opt/
%end
reboot
